from sobercrow.core.tracing._adjust_kernels cimport Ring
from sobercrow.core.tracing._render_kernels cimport Drawn, Pixels
from sobercrow.core.tracing._sizes cimport Cubic, Point, Row

cdef double FURTHEST_PX, CORNER_PULL, THIRDS_PULL, SHORT_PULL, FAINT, LEAST_DAMPING, WORTHWHILE

cdef struct Sight:
    # what a band is compared with, by channels of `count` pixels each; `plain`: one ink on one paper
    Py_ssize_t channels
    Py_ssize_t count
    bint plain
    bint varies
    double response
    const float* without
    const float* more
    const float* wanted
    const float* told
    const float* scale
    const float* strength
    const double* taps
    Py_ssize_t most_taps
    const long long* tap_counts
    float* cover
    float* level
    float* shown
    float* pull
    float* off
    double* costs

cdef struct Rows:
    # the joints of all rings
    const long long* starts
    Row* state
    const unsigned char* is_corner
    const unsigned char* straight
    unsigned char* held
    const Point* home
    Cubic* controls

cdef struct Parts:
    # where in the list each part begins, the rings of all parts, and where each part's begin
    const long long* places
    const long long* members
    const long long* starts

cdef double _pulled_at(const Drawn* to, const float* pull, double x, double y) noexcept nogil
cdef double _strength_at(const Drawn* to, const float* strength, double x, double y) noexcept nogil
cdef void _step_ring(const Drawn* to, const Sight* sight, const Ring* ring, double damping) noexcept nogil
cdef void _soften(
    const Pixels* pixels, Py_ssize_t low, Py_ssize_t high, const Sight* sight, Py_ssize_t channel, const float* values,
    float* out
) noexcept nogil
cdef void _cover(const Pixels* pixels, Py_ssize_t low, Py_ssize_t high, const double* steps, float* cover) noexcept nogil
cdef void _differ(const Pixels* pixels, Py_ssize_t low, Py_ssize_t high, const Sight* sight) noexcept nogil
cdef void _pull(const Pixels* pixels, Py_ssize_t low, Py_ssize_t high, const Sight* sight) noexcept nogil
cdef void _pixels_of(Pixels* pixels, object band) except *
cdef void _sight_of(Sight* sight, object likeness, float[:, ::1] room, double[::1] costs) except *
cpdef void difference(object band, object likeness, float[:, ::1] room, double[::1] costs) except *
cdef void _drawn_of(Drawn* to, object band, double[::1] steps) except *
cdef void _rows_of(Rows* rows, object rings) except *
cdef void _ring_at(Ring* ring, const Rows* rows, Py_ssize_t k) noexcept nogil
cdef void _draw(const Drawn* to, const Rows* rows, Py_ssize_t k, double amount) noexcept nogil
cdef Py_ssize_t _parts_of(Parts* parts, object band) except -1
cpdef void redraw(
    object band, object before, object after, const unsigned char[::1] which, double[::1] steps
) except *
cdef bint _is_any_active(const long long* members, Py_ssize_t count, const double* dampings) noexcept nogil
cdef bint _judge(
    const long long* members, Py_ssize_t count, const Rows* rows, const Sight* sight, Row* best, double* lowest,
    double* dampings, unsigned char* worse
) noexcept nogil
cpdef void settle(
    Py_ssize_t first, Py_ssize_t last, object band, object rings, object likeness, double[::1] steps, float[:, ::1] room,
    double[::1] costs, double[::1] dampings, double[:, ::1] best, double[::1] lowest, unsigned char[::1] worse,
    Py_ssize_t rounds
) except *
cdef void _look(
    const Drawn* to, const Pixels* pixels, const Sight* sight, const long long* members, Py_ssize_t count
) noexcept nogil
