// Changes and windows, compiled as one.
#include "change.cpp"
#include "moving.cpp"
#include "series.cpp"
