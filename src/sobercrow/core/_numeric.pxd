# What C's own operators and library do otherwise than Python's and NumPy's.
from libc.math cimport fmod

cdef inline double modulo(double a, double b) noexcept nogil:
    cdef double rest = fmod(a, b)
    return rest + b if rest != 0.0 and (rest < 0.0) != (b < 0.0) else rest

cdef inline Py_ssize_t wrap(Py_ssize_t a, Py_ssize_t n) noexcept nogil:
    cdef Py_ssize_t rest = a % n
    return rest + n if rest < 0 else rest

cdef inline double sign(double a) noexcept nogil:
    return <double>((a > 0.0) - (a < 0.0))

cdef inline Py_ssize_t searchsorted(const double* a, Py_ssize_t n, double v) noexcept nogil:
    cdef Py_ssize_t low = 0, high = n, middle
    while low < high:
        middle = (low + high) >> 1
        if a[middle] < v:
            low = middle + 1
        else:
            high = middle
    return low

cdef inline Py_ssize_t truncated(double a) noexcept nogil:
    return <Py_ssize_t> a

cdef inline Py_ssize_t floored(double a) noexcept nogil:
    cdef Py_ssize_t whole = <Py_ssize_t> a
    return whole - 1 if a < whole else whole

cdef inline unsigned char to_tone(double value) noexcept nogil:
    return <unsigned char> (0.0 if value < 0.0 else 255.0 if value > 255.0 else value)

cdef inline void sort(double* values, Py_ssize_t count) noexcept nogil:
    # in place (Shell 1959, "A high-speed sorting procedure")
    cdef Py_ssize_t i, k, gap = count // 2
    cdef double value
    while gap > 0:
        for i in range(gap, count):
            value = values[i]
            k = i
            while k >= gap and values[k - gap] > value:
                values[k] = values[k - gap]
                k -= gap
            values[k] = value
        gap //= 2
