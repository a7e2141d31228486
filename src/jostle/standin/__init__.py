"""The stand-in: a simulated provider that ships with Jostle."""
