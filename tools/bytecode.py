"""Imports all of the product once: its bytecode and that of what it uses is kept, also where Python is told to keep none."""

import sys
from importlib import import_module
from pkgutil import walk_packages

sys.dont_write_bytecode = False
for module in walk_packages([*import_module("jostle").__path__], "jostle."):
    import_module(module.name)
