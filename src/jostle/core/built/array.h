// Arrays as compiled code is given them: where they stand and their shape. With JOSTLE_CHECK every index is looked at.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>

#ifdef JOSTLE_CHECK
#include <cstdio>
#include <cstdlib>
inline long within(long i, long n, const char *what) {
  if (i < 0 || i >= n) {
    std::fprintf(stderr, "%s: place %ld of %ld\n", what, i, n);
    std::abort();
  }
  return i;
}
#define WITHIN(i, n) within(i, n, __PRETTY_FUNCTION__)
#else
#define WITHIN(i, n) (i)
#endif

template <class T> struct Array {
  T *at;
  long n;
  T &operator[](long i) const { return at[WITHIN(i, n)]; }
  Array cut(long from, long to) const { return {at + from, to > from ? to - from : 0}; }
  void fill(T value) const {
    for (long i = 0; i < n; i++) at[i] = value;
  }
};

template <class T> struct Grid {
  T *at;
  long n, m;
  Array<T> operator[](long i) const { return {at + WITHIN(i, n) * m, m}; }
  Grid cut(long from, long to) const { return {at + from * m, to > from ? to - from : 0, m}; }
  void fill(T value) const {
    for (long i = 0; i < n * m; i++) at[i] = value;
  }
};

template <class T> struct Block {
  T *at;
  long n, m, l;
  Grid<T> operator[](long i) const { return {at + WITHIN(i, n) * m * l, m, l}; }
};

// One field of an array of rows
template <class T> struct Column {
  char *at;
  long n, step;
  T &operator[](long i) const { return *reinterpret_cast<T *>(at + WITHIN(i, n) * step); }
};

inline Column<int32_t> column_of(void *at, long n, long step) { return {static_cast<char *>(at), n, step}; }
