from sobercrow.core.tracing._sizes cimport Cubic

cdef double FLAT_PX, SPACING_PX, BESIDE_PX

cdef struct Drawn:
    # the box around a band, where in the list its pixels stand, and the steps of those from `low` up to `high`
    const int* place
    Py_ssize_t height
    Py_ssize_t width
    Py_ssize_t top
    Py_ssize_t left
    Py_ssize_t low
    Py_ssize_t high
    double* steps

cdef struct Pixels:
    # the list of a band's pixels
    const int* rows
    const int* columns
    const int* above
    const int* below
    const int* owner

cdef double polygon_length(const double* c) noexcept nogil
cdef Py_ssize_t _root(long long* joined, Py_ssize_t ring) noexcept nogil
cdef void _join(long long* joined, Py_ssize_t a, Py_ssize_t b) noexcept nogil
cpdef Py_ssize_t mark_band(
    const double[:, ::1] controls, const long long[::1] starts, const long long[::1] order, int[:, ::1] place,
    Py_ssize_t top, Py_ssize_t left, Py_ssize_t reach, long long[::1] joined
)
cpdef void join_neighbours(const int[:, ::1] place, long long[::1] joined, long long[::1] counts)
cpdef void list_band(
    int[:, ::1] place, Py_ssize_t top, Py_ssize_t left, const long long[::1] part_of, long long[::1] ends,
    int[::1] by_row, int[::1] rows, int[::1] columns, int[::1] owner, int[::1] above, int[::1] below
)
cdef void _put(const Drawn* to, const int* row, Py_ssize_t column, double amount) noexcept nogil
cdef void _add_line(const Drawn* to, double x0, double y0, double x1, double y1, double amount) noexcept nogil
cdef Py_ssize_t _chords(const double* c) noexcept nogil
cdef void draw_ring(
    const Drawn* to, const Cubic* controls, Py_ssize_t first, Py_ssize_t last, double amount
) noexcept nogil
cpdef void draw(
    Py_ssize_t first, Py_ssize_t last, const double[:, ::1] controls, const long long[::1] starts,
    const unsigned char[::1] which, double amount, const int[:, ::1] place, Py_ssize_t top, Py_ssize_t left,
    double[::1] steps
)
cpdef void covered(const int[::1] by_row, const int[::1] rows, const double[::1] steps, double[::1] cover)
cpdef void lay_over(
    const unsigned char[:, :, ::1] covers, const long long[::1] inks, const float[:, ::1] colours, float[:, :, ::1] picture
)
cpdef void see_around(
    const unsigned char[:, ::1] covers, const unsigned char[::1] ground, const long long[::1] inks, Py_ssize_t number,
    const float[:, ::1] colours, float[:, ::1] without, float[:, ::1] more
)
cdef void soften(
    const Pixels* pixels, Py_ssize_t low, Py_ssize_t high, const double* taps, Py_ssize_t count, const float* values,
    float* level, float* out
) noexcept nogil
