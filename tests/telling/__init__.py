"""Notices on their way to other programs."""
