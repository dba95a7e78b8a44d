cdef Py_ssize_t RUN, LEAST_NEAR, LEAST_ROUNDS
cdef double RIDGE, LONGEST_STEP, LARGEST_TURN, LARGEST_GROWTH, STILL_PX, STILL_SIZE

cdef struct Lines:
    # segments of all letters, those of one in a row, and the boxes around each few of them
    const double* starts
    const double* ends
    const long long* first
    const long long* first_box
    double* boxes

cdef struct Sums:
    # equations of a letter's place and turn (upper half, row by row), and what they have in common with the size
    double[6] own
    double[3] side
    double[3] right
    double size
    double size_right
    double weight
    Py_ssize_t count

cdef void _box(Lines lines, Py_ssize_t letter) noexcept nogil
cdef double _nearest(
    Lines lines, Py_ssize_t letter, double x, double y, double best, long long* which
) noexcept nogil
cdef void _sum(
    Lines glyphs, Py_ssize_t letter, const double* points, Py_ssize_t first, Py_ssize_t last, const double* place,
    double size, double stray, double reach, long long* nearest, Sums* to
) noexcept nogil
cdef void _solve(const double* own, const double* right, double* found) noexcept nogil
cdef bint _step(
    Sums* every, Py_ssize_t count, double[:, ::1] places, double size, bint holds_size, double* moved
) noexcept nogil
cdef Lines _boxed(
    const double* starts, const double* ends, const long long[::1] first, const long long[::1] first_box,
    double* boxes
) noexcept nogil
cpdef double lay(
    const double[:, ::1] points, const long long[::1] own, const double[:, ::1] starts, const double[:, ::1] ends,
    const long long[::1] of, double[:, ::1] places, double size, const double[::1] strays, double stray_px,
    double stiffness, double reach, bint holds_size
)
cpdef void how_far(
    const double[:, ::1] points, const long long[::1] after, const long long[::1] own, const double[:, ::1] starts,
    const double[:, ::1] ends, const long long[::1] of, const double[:, ::1] places, double size, double reach,
    double[::1] off
)
