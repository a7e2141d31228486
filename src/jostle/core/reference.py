"""Many arrays under one name, handed on in compiled code by where they stand.

The setup and the state of a group are some six hundred words: the addresses, lengths and strides of their arrays. A function
that is given tuples is given all of these words, and its caller writes them down anew at each call. What is given references is
given two, and reads of the others what it wants.
"""

import hashlib
from typing import Any, TypeVar

import numba
from llvmlite import ir  # type: ignore[import-untyped]
from numba.core import cgutils, types
from numba.core.imputils import impl_ret_borrowed, lower_getattr_generic
from numba.core.types.containers import NamedTuple, NamedUniTuple, Tuple
from numba.core.typing.templates import AttributeTemplate, infer_getattr
from numba.extending import intrinsic, models, register_model

T = TypeVar("T")
U = TypeVar("U")

# As compiled code knows it
PLACE = ir.IntType(8).as_pointer()


class Reference(types.Type):
    """Where a named tuple stands. Its fields are read as those of the tuple itself; a field that is a named tuple, as a reference
    to that."""

    def __init__(self, held: Any) -> None:
        self.held = held
        digest = hashlib.sha256(str(held).encode()).hexdigest()[:12]
        super().__init__(f"Reference({held.instance_class.__name__}, {digest})")

    @property
    def key(self) -> Any:
        return self.held


@register_model(Reference)
class _Place(models.PrimitiveModel):  # type: ignore[misc]
    def __init__(self, manager: Any, kind: Reference) -> None:
        super().__init__(manager, kind, PLACE)


def _is_many(kind: Any) -> bool:
    return isinstance(kind, NamedTuple | NamedUniTuple)


@infer_getattr
class _Fields(AttributeTemplate):  # type: ignore[misc]
    key = Reference

    def generic_resolve(self, reference: Reference, name: str) -> Any:
        held = reference.held
        if name not in held.fields:
            return None
        kind = held.types[held.fields.index(name)]
        return Reference(kind) if _is_many(kind) else kind


def part_of(builder: Any, place: ir.Value, number: int) -> ir.Value:
    """Where a part of what stands at a pointer stands."""
    return builder.gep(place, [ir.Constant(ir.IntType(32), 0), ir.Constant(ir.IntType(32), number)])


def _reader(module: Any, kind: ir.Type) -> ir.Function:
    """A function, made part of its callers, that reads what stands at a place word by word: nobody writes there meanwhile, so
    that of each word it is known that it stays as it is."""
    name = f"read_{hashlib.sha256(str(kind).encode()).hexdigest()[:12]}"
    if name in module.globals:
        return module.globals[name]
    function = ir.Function(module, ir.FunctionType(kind, [kind.as_pointer()]), name)
    function.linkage = "internal"
    function.attributes.add("alwaysinline")
    builder = ir.IRBuilder(function.append_basic_block())
    builder.ret(_read(builder, function.args[0]))
    return function


def _read(builder: Any, place: ir.Value) -> ir.Value:
    kind = place.type.pointee
    if not isinstance(kind, ir.LiteralStructType | ir.ArrayType):
        word = builder.load(place)
        word.set_metadata("invariant.load", builder.module.add_metadata([]))
        return word
    whole = ir.Constant(kind, ir.Undefined)
    for number in range(len(kind.elements) if isinstance(kind, ir.LiteralStructType) else kind.count):
        whole = builder.insert_value(whole, _read(builder, part_of(builder, place, number)), number)
    return whole


@lower_getattr_generic(Reference)
def _field(context: Any, builder: Any, reference: Reference, place: ir.Value, name: str) -> Any:
    held = reference.held
    number = held.fields.index(name)
    kind = held.types[number]
    part = part_of(builder, builder.bitcast(place, context.get_value_type(held).as_pointer()), number)
    if _is_many(kind):
        return builder.bitcast(part, PLACE)
    return impl_ret_borrowed(context, builder, kind, builder.call(_reader(builder.module, part.type.pointee), [part]))


def by_reference(setup: T, state: U) -> tuple[T, U]:
    """References to both, for a function that Python calls to begin with, which hold for as long as it goes on; in plain Python
    the same two."""
    return setup, state


@intrinsic
def _laid_down(_: Any, setup: Any, state: Any) -> Any:
    """The two are laid down on the stack of the function in which this stands."""
    given = Reference(setup), Reference(state)

    def made(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        places = []
        for one, held in zip(arguments, signature.args, strict=True):
            place = cgutils.alloca_once(builder, context.get_value_type(held))
            builder.store(one, place)
            # What is read is taken as never written to: the optimiser is not to know that this is where it was.
            hidden = ir.FunctionType(PLACE, [PLACE])
            places.append(builder.asm(hidden, "", "=r,0,~{memory}", [builder.bitcast(place, PLACE)], True))
        return context.make_tuple(builder, signature.return_type, places)

    return Tuple(given)(setup, state), made


if not numba.config.DISABLE_JIT:
    by_reference = _laid_down
