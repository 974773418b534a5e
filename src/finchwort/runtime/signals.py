"""Being told to stop: Ctrl-C, and the signals that end a process."""

from __future__ import annotations

import queue
import signal
import threading

ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


def until_told() -> threading.Event:
    """Return an event that a Ctrl-C or an end signal sets.

    A signal may arrive while the main thread is just taking the lock of that very event, in a wait: setting it in the handler
    would wait for that lock for ever.  So the handler only puts a word into a queue, which may be done anywhere, and a thread
    sets the event.
    """
    stopping = threading.Event()
    told: queue.SimpleQueue[int] = queue.SimpleQueue()

    def pass_on() -> None:
        told.get()
        stopping.set()

    threading.Thread(target=pass_on, name="until-told", daemon=True).start()
    for number in ENDING:
        signal.signal(number, lambda number, _frame: told.put(number))
    return stopping
