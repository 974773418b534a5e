"""The application with one empty route beside it, for comparison, at the server that ships."""

import sys

from waitress import serve

from finchwort.web import create_app


def create():
    """The application and its empty route."""
    app = create_app()

    @app.get("/api/empty")
    def empty():
        return ""

    return app


def command(port: int) -> list[str]:
    """By which it is started."""
    return [sys.executable, "-m", "bench.app", str(port)]


if __name__ == "__main__":
    serve(create(), host="127.0.0.1", port=int(sys.argv[1]), threads=4)
