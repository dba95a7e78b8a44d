ctypedef int[2] Place

cdef int[8] AROUND_Y, AROUND_X, RING_Y, RING_X

cdef bint _can_go(const unsigned char[:, ::1] framed, Py_ssize_t row, Py_ssize_t column, bint second) noexcept nogil
cpdef void thin(unsigned char[:, ::1] framed)
cdef bint joins(const unsigned char[:, ::1] framed, Py_ssize_t row, Py_ssize_t column, Py_ssize_t k) noexcept nogil
cpdef mark_nodes(const unsigned char[:, ::1] framed)
cpdef follow_skeleton(const unsigned char[:, ::1] framed, const unsigned char[:, ::1] kinds)
