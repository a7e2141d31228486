"""Jostle: rehearse a week of an instance group before it happens."""

__version__ = "0.1.0"
