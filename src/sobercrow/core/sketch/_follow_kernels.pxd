cdef enum:
    SIDEWAYS = 7  # places across that are looked at in each step
    TURNS = 7     # and directions
    SEEN = 49     # of both together

cdef double PI, HALF, MOST_TURN, PEN_ACROSS, PEN_TURN, DRAWN_OVER, TURNED_OVER, BACK, CLOSED
cdef int NEAR_ENOUGH

cdef Py_ssize_t _layer_of(double way, Py_ssize_t layers) noexcept nogil
cdef double _score(const float* volume, Py_ssize_t layers, Py_ssize_t height, Py_ssize_t width, double x, double y, double way) noexcept nogil
cdef Py_ssize_t _walk(
    const float[:, :, ::1] volume, unsigned char[:, :, ::1] used, double x, double y, double way, double spread,
    double least, double[:, ::1] line, Py_ssize_t first, bint* closed
) noexcept nogil

cpdef bint is_ridge(const float[:, :, ::1] volume, double x, double y, double way, double spread)
cpdef (Py_ssize_t, bint) follow(
    const float[:, :, ::1] volume, unsigned char[:, :, ::1] used, double x, double y, double way, double spread,
    double least, double[:, ::1] line, Py_ssize_t first
)
cpdef void mark(unsigned char[:, :, ::1] used, const double[:, ::1] line, double reach, Py_ssize_t turn)
