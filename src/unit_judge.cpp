// Flags and descriptions, compiled as one.
#include "flags.cpp"
#include "day_shapes.cpp"
#include "describe.cpp"
