// Seasons, trends and lags, compiled as one.
#include "season.cpp"
#include "effects.cpp"
#include "trend.cpp"
#include "lags.cpp"
