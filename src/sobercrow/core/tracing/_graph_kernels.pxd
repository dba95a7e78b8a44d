cdef int[4] STEP_X, STEP_Y, AROUND_Y, AROUND_X
cdef double NEAR_PX, FAR_PX, VERTEX_PULL, FURTHEST_PX, THROUGH_COS

ctypedef (Py_ssize_t, Py_ssize_t, Py_ssize_t) Met

cdef int _at(const unsigned char[:, ::1] framed, Py_ssize_t i, Py_ssize_t j, int quarter) noexcept nogil
cdef bint _is_junction(const unsigned char[:, ::1] framed, Py_ssize_t i, Py_ssize_t j) noexcept nogil
cpdef (Py_ssize_t, Py_ssize_t) count_borders(const unsigned char[:, ::1] framed)
cdef int _turn(
    const unsigned char[:, ::1] framed, const unsigned char[:, ::1] share, Py_ssize_t i, Py_ssize_t j, int heading
) noexcept nogil
cdef bint _was_seen(
    unsigned char[:, ::1] across, unsigned char[:, ::1] down, Py_ssize_t i, Py_ssize_t j, int heading, bint mark
) noexcept nogil
cdef Met _walk(
    const unsigned char[:, ::1] framed, const unsigned char[:, ::1] share, unsigned char[:, ::1] across,
    unsigned char[:, ::1] down, Py_ssize_t i, Py_ssize_t j, int heading, bint closed, long long[:, ::1] crossings,
    Py_ssize_t count
) noexcept nogil
cdef void _reverse(long long[:, ::1] crossings, Py_ssize_t first, Py_ssize_t last) noexcept nogil
cpdef follow_graph(
    const unsigned char[:, ::1] framed, const unsigned char[:, ::1] share, Py_ssize_t sides, Py_ssize_t junctions
)
cdef bint _end_line(
    const double[:, ::1] points, Py_ssize_t first, Py_ssize_t end, bint last, double x, double y, double* line
) noexcept nogil
cpdef void place_junctions(
    const double[:, ::1] points, const long long[::1] starts, const long long[:, ::1] ends, const long long[:, ::1] nodes,
    Py_ssize_t height, Py_ssize_t width, double[:, ::1] places, double[:, :, ::1] lines, unsigned char[:, ::1] smooth
)
