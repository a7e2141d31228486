"""The engine: compile, advance, result.

Everything that moves is here, in plain floats and arrays, compiled. What it means in words is said elsewhere.
"""
