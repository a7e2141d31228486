"""Writes layout.h and layout.pxd of compiled code from the declarations in Python: python tools/layout.py FOLDER."""

import importlib
import os
import pkgutil
import re
import sys
from enum import IntEnum
from pathlib import Path
from typing import Any, get_type_hints

import numpy as np

# What is about to be written is not looked at for being up to date.
os.environ["JOSTLE_BUILT_AS_IT_IS"] = "1"

import jostle.core
from jostle.core.built.laid import Many, One
from jostle.core.decide.memory import Memory
from jostle.core.decide.rules import Rules
from jostle.core.decide.sight import Sight
from jostle.core.engine.deck import Deck
from jostle.core.engine.market import Market
from jostle.core.engine.queue import Line
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNTOUCHED, State

CORE = Path(jostle.core.__file__).parent
# Each after those that it holds
HELD = (Line, Market, Rules, Memory, Sight, Deck, Setup, State)
NUMBERS = {
    "f8": "double",
    "f4": "float",
    "i8": "int64_t",
    "i4": "int32_t",
    "i2": "int16_t",
    "i1": "int8_t",
    "b1": "bool",
}
# What Cython takes a number for: each whole one is reckoned with in 64 bits
READ_AS = {"f8": "double", "f4": "float", "b1": "bint"}
ELEMENT = {"double": "double", "float": "float", "int64_t": "long", "bool": "flag"}
AXES = ("Array", "Grid", "Block")
# Words of C++ that are names of fields
TAKEN = {"short"}
# Where the constants of compiled code are declared
DECLARED = ("draw", "calendar", "plan", "decide", "engine")
WRITTEN_BY = "Written by tools/layout.py from the declarations in Python; not to be edited."


def main(folder: Path) -> None:
    names = (one.name for one in pkgutil.walk_packages(jostle.core.__path__, "jostle.core."))
    modules = [importlib.import_module(name) for name in names if name.split(".")[2] in DECLARED]
    rows = {one: name for module in modules for name, one in vars(module).items() if name.isupper() and isinstance(one, np.dtype)}
    kept = {one.of: _called(rows[one.of]) for held in HELD for one in _laid(held).values() if isinstance(one.of, np.dtype)}
    header, seen = [f"// {WRITTEN_BY}", "#pragma once", '#include "array.h"'], [f'"""{WRITTEN_BY}"""', ""]
    seen += ["from jostle.core.built.array cimport *", "", "", 'cdef extern from "layout.h" nogil:']
    for kind, name in sorted(kept.items(), key=lambda one: one[1]):
        _row(kind, name, header, seen)
    for held in HELD:
        _tuple(held, kept, header, seen)
    header += ["struct Group {", "  Setup setup;", "  State state;", "};"]
    seen += ["    struct Group:", "        Setup setup", "        State state", ""]
    untouched = UNTOUCHED.view(np.ndarray)[0]
    values = ", ".join(_number(untouched[field]) for field in untouched.dtype.names)
    header.append(f"static const {kept[untouched.dtype]} UNTOUCHED = {{{values}}};")
    seen.append(f"    {kept[untouched.dtype]} UNTOUCHED")
    _constants(modules, header, seen)
    (folder / "layout.h").write_text("\n".join(header) + "\n")
    (folder / "layout.pxd").write_text("\n".join(seen) + "\n")


def _called(name: str) -> str:
    return f"{name.title()}Row" if name.title() in {held.__name__ for held in HELD} else name.title()


def _laid(held: type) -> dict[str, Any]:
    """The fields of a tuple: how each is laid down, or the tuple that it is."""
    hints = get_type_hints(held, include_extras=True)
    fields: tuple[str, ...] = held._fields  # type: ignore[attr-defined]
    found = {name: getattr(hints[name], "__metadata__", (hints[name],))[0] for name in fields}
    for name, one in found.items():
        if not (isinstance(one, One | Many) or one in HELD):
            raise SystemExit(f"{held.__name__}.{name}: say how it is laid down, see jostle.core.built.laid")
    return {name: one for name, one in found.items() if isinstance(one, One | Many)}


def _row(kind: np.dtype, name: str, header: list[str], seen: list[str]) -> None:
    packed = "" if kind.isalignedstruct else "__attribute__((packed)) "
    header.append(f"struct {packed}{name} {{")
    seen.append(f"    struct {name}:")
    for field in kind.names or ():
        code, own = kind[field].str[1:], f"{field}_" if field in TAKEN else field
        header.append(f"  {NUMBERS[code]} {own};")
        seen.append(f"        {READ_AS.get(code, 'long')} {field}" + (f' "{own}"' if own != field else ""))
    header += ["};", f'static_assert(sizeof({name}) == {kind.itemsize}, "{name}");']
    for field, (_, offset) in ((field, (kind.fields or {})[field][:2]) for field in kind.names or ()):
        own = f"{field}_" if field in TAKEN else field
        header.append(f'static_assert(offsetof({name}, {own}) == {offset}, "{name}.{field}");')


def _tuple(held: type, kept: dict[np.dtype, str], header: list[str], seen: list[str]) -> None:
    laid, hints = _laid(held), get_type_hints(held)
    header.append(f"struct {held.__name__} {{")
    seen.append(f"    struct {held.__name__}:")
    for field in held._fields:  # type: ignore[attr-defined]
        one = laid.get(field)
        if one is None:
            header.append(f"  {hints[field].__name__} {field};")
            seen.append(f"        {hints[field].__name__} {field}")
        elif isinstance(one, One):
            header.append(f"  {kept[one.of]} *{field};")
            header.append(f"  int64_t {field}_rows;")
            seen.append(f"        {kept[one.of]}* {field}")
        else:
            of = kept[one.of] if isinstance(one.of, np.dtype) else NUMBERS[np.dtype(one.of).str[1:]]
            header.append(f"  {AXES[one.axes - 1]}<{of}> {field};")
            seen.append(f"        {AXES[one.axes - 1]}[{ELEMENT.get(of, of)}] {field}")
    header.append("};")


def _constants(modules: list[Any], header: list[str], seen: list[str]) -> None:
    """Those that the sources of compiled code name, words of an enumeration as NAME_WORD."""
    used = {word for path in CORE.rglob("*.pxi") for word in re.findall(r"\b[A-Z][A-Z0-9_]+\b", path.read_text())}
    found: dict[str, Any] = {}
    for module in modules:
        for name, value in vars(module).items():
            if isinstance(value, type) and issubclass(value, IntEnum) and value.__module__ == module.__name__:
                stem = re.sub(r"(?<!^)([A-Z])", r"_\1", name).upper()
                known = {f"{stem}_{one.name}": int(one) for one in value}
            else:
                known = {name: value} if name.isupper() and _is_number(value) else {}
            for word, what in known.items():
                if word in used and word in found and not np.array_equal(found[word], what):
                    raise SystemExit(f"{word}: is {found[word]} and {what}; compiled code knows one of a name")
                found[word] = what
    for word in sorted(used & found.keys()):
        value = found[word]
        if isinstance(value, np.ndarray):
            of, axes = ("long", "double")[value.dtype.kind == "f"], AXES[value.ndim - 1]
            header.append(f"static {of} {word}_[] = {{{', '.join(_number(one) for one in value.ravel())}}};")
            header.append(f"static const {axes}<{of}> {word} = {{{word}_, {', '.join(map(str, value.shape))}}};")
            seen.append(f"    {axes}[{of}] {word}")
        else:
            of = "double" if isinstance(value, float) else "long"
            header.append(f"constexpr {of} {word} = {_number(value)};")
            seen.append(f"    {of} {word}")


def _is_number(value: Any) -> bool:
    """Whether it is a number, or numbers."""
    if isinstance(value, np.ndarray):
        return value.dtype.names is None
    return isinstance(value, int | float) and not isinstance(value, bool)


def _number(value: Any) -> str:
    plain = value.item() if isinstance(value, np.generic) else value
    if isinstance(plain, bool):
        return str(plain).lower()
    if isinstance(plain, float):
        return "NAN" if plain != plain else repr(plain).replace("inf", "INFINITY")
    return str(int(plain))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
