from sobercrow.core.tracing._sizes cimport Point

cdef struct Border:
    Py_ssize_t count
    const Point* points
    const double* along  # the length passed at each, and in the end the whole, count + 1

cdef Border border_of(const double[:, ::1] points, const double[::1] along) noexcept nogil
cdef void measure_lengths(const Point* points, Py_ssize_t count, double* along) noexcept nogil
cdef void place_on_border(
    const Border* border, double s, double reach, double low, double high, double* place
) noexcept nogil

cpdef arc_lengths(const double[:, ::1] points)
cpdef void place_at(
    const double[:, ::1] points, const double[::1] along, double s, double reach, double low, double high,
    double[::1] place
)
