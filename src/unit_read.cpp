// Text, dates and numbers as people write them, and files, compiled as one.
#include "files.cpp"
#include "fingerprint.cpp"
#include "delimited.cpp"
#include "dates.cpp"
#include "read.cpp"
#include "write.cpp"
