"""The socket the server listens at."""

from __future__ import annotations

import socket


def listen(port: int) -> socket.socket:
    """A socket that listens on loopback; port 0 takes any that is free.

    Made as TCP by name: only then does asyncio send small answers at once, on a connection that was
    used before, and not 40 ms later, when the other side acknowledges what came before them.

    Raises OSError that says what to do.
    """
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError as error:
        listener.close()
        raise OSError(f"port {port} is taken. Choose another with --port.") from error
    return listener
