"""Searches for the best settings: thousands of weeks are rehearsed, and the operator judges."""
