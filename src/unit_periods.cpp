// The calendar, cadences and cells, compiled as one.
#include "cells.cpp"
#include "counter.cpp"
#include "look.cpp"
#include "cadence.cpp"
#include "calendar.cpp"
#include "roll_up.cpp"
#include "threads.cpp"
