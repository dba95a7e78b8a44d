cdef enum:
    REACH_PX = 3  # how far an edge's profile is read on each side, in pixels: blur of a good scan ends within it
    BLUR_REACH_PX = 4

cdef int[4] STEP_X, STEP_Y
cdef double PLATEAU_LEVELS, OUTSIDE, SIDEWAYS, NOWHERE

ctypedef long long[3] Crossing
ctypedef (double, Py_ssize_t, bint) Walked

cdef double _level(const unsigned char[:, ::1] grey, Py_ssize_t row, Py_ssize_t column) noexcept nogil
cpdef follow_borders(const unsigned char[:, ::1] grey, double iso, const long long[::1] firsts)
cdef Walked _walk(
    const unsigned char[:, ::1] grey, Py_ssize_t row, Py_ssize_t column, Py_ssize_t step_y, Py_ssize_t step_x,
    bint falling, double level
) noexcept nogil
cdef double _partial_area_shift(
    const unsigned char[:, ::1] grey, Py_ssize_t row, Py_ssize_t column, Py_ssize_t facing, double neutral,
    double ink_level, double paper_level
) noexcept nogil
cpdef Py_ssize_t locate_points(
    const unsigned char[:, ::1] grey, const long long[:, ::1] crossings, double iso, double neutral, double ink_level,
    double paper_level, double[:, ::1] points
)
cpdef Py_ssize_t edge_blurs(
    const unsigned char[:, ::1] grey, const long long[:, ::1] crossings, Py_ssize_t every, double spread, double[::1] blurs
)
