"""The application with one empty route beside it, for comparison."""

from finchwort.web import create_app


def create():
    app = create_app()

    @app.get("/api/empty")
    def empty():
        return ""

    return app
