// Links, and the doors to R, compiled as one.
#include "links.cpp"
#include "RcppExports.cpp"
