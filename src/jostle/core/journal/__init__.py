"""Rows of numbers become sentences: what a group is told, what happened to it, and why."""
