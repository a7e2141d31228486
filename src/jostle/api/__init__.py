"""The web service: routes, errors, static files."""
