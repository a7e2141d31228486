"""Servers as they should not be: slow, endless, broken; each a real one on a port of its own."""

import gzip
import itertools
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache

HEAD = b"HTTP/1.1 200 OK\r\ncontent-type: application/json\r\n"
# s between two bytes of a server that drips
DRIP = 0.2


def dripping_body() -> Iterator[bytes]:
    yield HEAD + b"content-length: 100000\r\n\r\n"
    yield from itertools.repeat(b"1")


def dripping_head() -> Iterator[bytes]:
    yield b"HTTP/1.1 200 OK\r\nx-slow: "
    yield from itertools.repeat(b"1")


def silent() -> Iterator[bytes]:
    yield from itertools.repeat(b"")


def endless() -> Iterator[bytes]:
    yield HEAD + b"\r\n["
    yield from itertools.repeat(b"1," * 32_768)


@cache
def bomb() -> list[bytes]:
    packed = gzip.compress(b" " * 200 * 2**20)
    return [HEAD + b"content-encoding: gzip\r\ncontent-length: %d\r\n\r\n" % len(packed) + packed]


def bad_gzip() -> Iterator[bytes]:
    yield HEAD + b'content-encoding: gzip\r\ncontent-length: 9\r\n\r\n{"a": 1}\n'


def cut_gzip() -> Iterator[bytes]:
    packed = gzip.compress(b"[1, 2, 3]")[:-6]
    yield HEAD + b"content-encoding: gzip\r\ncontent-length: %d\r\n\r\n" % len(packed) + packed


def other_packing() -> Iterator[bytes]:
    yield HEAD + b"content-encoding: br\r\ncontent-length: 2\r\n\r\n[]"


def deep() -> Iterator[bytes]:
    yield HEAD + b"content-length: 200000\r\n\r\n" + b"[" * 200_000


def not_json() -> Iterator[bytes]:
    yield HEAD + b"content-length: 5\r\n\r\nhello"


def redirect() -> Iterator[bytes]:
    yield b"HTTP/1.1 302 Found\r\nlocation: http://127.0.0.1:1/\r\ncontent-length: 0\r\n\r\n"


SLOW = (dripping_body, dripping_head, silent)


@contextmanager
def hostile(answer, port: int = 0) -> Iterator[str]:
    """A server that answers every request so; gives its address."""
    over, server = threading.Event(), socket.create_server(("127.0.0.1", port))

    def serve(one: socket.socket) -> None:
        with one, suppress(OSError):
            one.recv(65_536)
            for piece in answer():
                if over.is_set():
                    return
                one.sendall(piece)
                if len(piece) < 2:
                    over.wait(DRIP)

    def accept() -> None:
        with suppress(OSError):
            while True:
                threading.Thread(target=serve, args=(server.accept()[0],), daemon=True).start()

    threading.Thread(target=accept, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.getsockname()[1]}"
    finally:
        over.set()
        server.close()
