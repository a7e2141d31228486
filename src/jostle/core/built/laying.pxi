"""From arrays of Python to arrays of compiled code."""

cimport numpy as cnp
from libc cimport math
from libc.math cimport INFINITY, NAN, M_PI
from libc.stdint cimport int8_t, int16_t, int32_t, int64_t, uint64_t

from jostle.core.built.layout cimport *

cnp.import_array()


cdef long lay(object held, int64_t* words, long room) except -1:
    """Lay down a tuple of arrays: where each stands and its shape, one behind the other. Returns how many words that took.
    Raises ValueError where one is not in one piece, or where it takes more room than there is."""
    cdef long number = 0, axis
    cdef cnp.ndarray array
    for one in held:
        if isinstance(one, tuple):
            number += lay(one, words + number, room - number)
            continue
        array = one
        if not cnp.PyArray_IS_C_CONTIGUOUS(array):
            raise ValueError("compiled code takes arrays that lie in one piece")
        if number + 1 + cnp.PyArray_NDIM(array) > room:
            raise ValueError("there is more in this than compiled code knows of; build it anew: make build")
        words[number] = <int64_t>cnp.PyArray_DATA(array)
        for axis in range(cnp.PyArray_NDIM(array)):
            words[number + 1 + axis] = cnp.PyArray_DIM(array, axis)
        number += 1 + cnp.PyArray_NDIM(array)
    return number


cdef int lay_whole(object held, void* where, long size) except -1:
    """Lay down a tuple that takes so many bytes. Raises ValueError where it takes another room."""
    if lay(held, <int64_t*>where, size // 8) * 8 != size:
        raise ValueError("this is not laid out as compiled code knows it; build it anew: make build")
    return 0


cdef void* start_of(object given, long size) except? NULL:
    """Where the items of an array stand, each of so many bytes. Raises ValueError where they take another room, or are not in one
    piece."""
    cdef cnp.ndarray array = given
    if cnp.PyArray_ITEMSIZE(array) != size or not cnp.PyArray_IS_C_CONTIGUOUS(array):
        raise ValueError(f"compiled code takes items of {size} bytes in one piece, not {array.dtype}")
    return cnp.PyArray_DATA(array)


cdef Array[double] doubles(object given) except *:
    cdef Array[double] found
    found.at, found.n = <double*>start_of(given, 8), len(given)
    return found


cdef Array[long] longs(object given) except *:
    cdef Array[long] found
    found.at, found.n = <long*>start_of(given, 8), len(given)
    return found


cdef Array[flag] flags(object given) except *:
    cdef Array[flag] found
    found.at, found.n = <flag*>start_of(given, 1), len(given)
    return found


cdef Array[float] singles(object given) except *:
    cdef Array[float] found
    found.at, found.n = <float*>start_of(given, 4), len(given)
    return found


cdef Grid[double] double_grid(object given) except *:
    cdef Grid[double] found
    found.at, found.n, found.m = <double*>start_of(given, 8), given.shape[0], given.shape[1]
    return found


cdef Array[Usual] usual_of(object given) except *:
    cdef Array[Usual] found
    found.at, found.n = <Usual*>start_of(given, sizeof(Usual)), len(given)
    return found
