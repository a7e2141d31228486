"""Jostle: rehearse a week of an instance group before it happens."""

__version__ = "0.1.0"
# Where the service listens unless told otherwise
HOST, PORT = "127.0.0.1", 8470
