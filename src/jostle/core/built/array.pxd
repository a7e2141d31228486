"""Arrays as compiled code is given them: where they stand and their shape; see array.h."""

from libc.stdint cimport int8_t, int16_t, int32_t, int64_t


cdef extern from "array.h" nogil:
    ctypedef bint flag "bool"

    cppclass Array[T]:
        T* at
        long n
        T& operator[](long)
        Array[T] cut(long, long)
        void fill(T)

    cppclass Grid[T]:
        T* at
        long n
        long m
        Array[T] operator[](long)
        Grid[T] cut(long, long)
        void fill(T)

    cppclass Block[T]:
        T* at
        long n
        long m
        long l
        Grid[T] operator[](long)

    cppclass Column[T]:
        char* at
        long n
        long step
        T& operator[](long)

    Column[int32_t] column_of(void*, long, long)


ctypedef fused real:
    float
    double
