from sobercrow.core.tracing._contour_kernels cimport Fit
from sobercrow.core.tracing._sizes cimport Point, Row

cdef enum:
    REACH = 10  # four times the width of the bell, and both sides of it with the middle
    BELL = 21

cdef double NOISE_PX, SMOOTHED_POINTS, SIGMA_OF_MEDIAN, ROUGH, SURE_PX, ROUGH_CORNER, MOST_CORNER_RAD, LEAST_APART_PX
cdef Py_ssize_t ROUGH_POINTS, THINNED_FROM, LOOP, REVERSED

cdef struct Frame:
    # a view: its middle, which way round, and whether it lies on its side
    double x
    double y
    double along
    double down
    bint on_its_side

cdef struct Manner:
    # how borders are fitted: in pixels of the drawing, which are so many of the picture's
    double tolerance
    double corner_rad
    double blur
    double grain
    bint mixed

cdef Frame _frame_of(const Point* line, Py_ssize_t n) noexcept nogil
cdef void _seen(const Frame* frame, double x, double y, double* out) noexcept nogil
cdef void _back(const Frame* frame, double grain, double* out) noexcept nogil
cdef void _smoothed(const double* values, Py_ssize_t n, bint closed, double* out) noexcept nogil
cdef double roughness(const Point* line, Py_ssize_t n, bint closed) noexcept nogil
cdef double _price(double tolerance) noexcept nogil
cdef Fit _suited(const Point* line, Py_ssize_t n, bint closed, const Manner* manner) noexcept nogil
cdef void _reverse(Row* rows, unsigned char* kinds, Py_ssize_t count) noexcept nogil
cdef void _turned(const double* row, double* out) noexcept nogil
cdef Py_ssize_t _thinned(const Point* line, Py_ssize_t n, double grain, Point* out) noexcept nogil
cdef (Py_ssize_t, Py_ssize_t) _fit_closed(
    const Point* line, Py_ssize_t n, const Manner* manner, Row* rows, unsigned char* kinds
) noexcept nogil
cdef Py_ssize_t _fit_open(
    const Point* line, Py_ssize_t n, const double* ends, const Manner* manner, Row* rows, unsigned char* kinds
) noexcept nogil
cdef void _turn_round(Point* points, Py_ssize_t n, double* ends) noexcept nogil
cdef bint _is_untidy(const Row* rows, const unsigned char* kinds, Py_ssize_t count, bint closed) noexcept nogil

cpdef void fit_lines(
    const double[:, ::1] points, const long long[::1] starts, const unsigned char[::1] is_closed,
    const double[:, ::1] ends, double tolerance, double corner_rad, double blur, double grain, bint mixed,
    double[:, ::1] anchors, unsigned char[::1] kinds, long long[::1] counts, unsigned char[::1] flags
)
