"""How gunicorn's processes serve: each reads requests whole before a thread works on them.

Gunicorn starts the processes, replaces one that dies and stops them; Waitress, in each, waits for
all clients at once, so that slow and silent ones hold no thread.
"""

import ctypes
import os
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings
from gunicorn.workers.base import Worker
from waitress.channel import HTTPChannel
from waitress.server import BaseWSGIServer, create_server
from waitress.wasyncore import loop

LOOK_S = 1.0  # from one look to the next at whether to go on
BUSY_LOOK_S = 0.1  # the same while it ends
END_S = 20  # for what is worked on when the process is asked to end
COMING_S = 5  # the same for what has only come in part
THREADS_END_S = 1  # for threads that have nothing to do any more
MOST_CONNECTIONS = 1_000  # of one process
FORWARDED = {"x-forwarded-for", "x-forwarded-proto"}
MOST_BYTES = 700_000_000  # that a process may take; then it ends its work, and another one starts
M_MMAP_THRESHOLD = -3  # of malloc.h
LARGE_BYTES = 1_000_000
IDLE_S = 60  # until a silent connection is closed


def memory_bytes() -> int:
    """What this process takes of the machine's memory, by Linux's proc(5)."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE")


def give_large_arrays_back() -> None:
    """Has the memory of large arrays go back to the system when they go.

    Else glibc, which has seen some of them, keeps the room of the next ones, for each thread. By
    mallopt(3); other systems do as they do.
    """
    with suppress(AttributeError):
        ctypes.CDLL(None).mallopt(M_MMAP_THRESHOLD, LARGE_BYTES)


class BufferingWorker(Worker):
    """One process."""

    def run(self) -> None:
        """Serves until it is asked to end, or its master is gone."""
        give_large_arrays_back()
        channels: dict[int, Any] = {}  # what the loop waits for
        server = create_server(
            self.wsgi,  # type: ignore[arg-type]  # the types of both packages differ in words
            map=channels,
            sockets=[one.sock for one in self.sockets],  # type: ignore[attr-defined]
            threads=settings.THREADS,
            connection_limit=MOST_CONNECTIONS,
            channel_timeout=IDLE_S,
            cleanup_interval=IDLE_S // 2,
            max_request_body_size=2 * settings.MOST_BODY_BYTES,  # below, a page says what is wrong
            trusted_proxy=settings.PROXY or None,
            trusted_proxy_headers=FORWARDED if settings.PROXY else set(),
            clear_untrusted_proxy_headers=True,
            asyncore_use_poll=True,
        )
        while self.alive and self.ppid == os.getppid() and memory_bytes() < MOST_BYTES:
            self.notify()
            loop(LOOK_S, use_poll=True, map=channels, count=1)
        for one in channels.values():
            if isinstance(one, BaseWSGIServer):
                one.accepting = False  # the other processes take who comes now
        asked_to_end_s = time.monotonic()
        while (ends_for_s := time.monotonic() - asked_to_end_s) < END_S:
            if not any(_is_busy(one, ends_for_s) for one in channels.values()):
                break
            self.notify()
            loop(BUSY_LOOK_S, use_poll=True, map=channels, count=1)
        server.task_dispatcher.shutdown(timeout=THREADS_END_S)


def _is_busy(channel: object, ends_for_s: float) -> bool:
    """Whether a connection waits for an answer, or still sends, which it must do in time."""
    if not isinstance(channel, HTTPChannel):
        return False
    waits = bool(channel.requests or channel.total_outbufs_len)
    is_new = time.time() < channel.creation_time + LOOK_S
    return waits or (ends_for_s < COMING_S and (is_new or channel.request is not None))
