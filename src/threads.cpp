// How many threads the kernels may use, from R's option `backfill.threads`.
#include <Rcpp/Lightest>

#include <thread>

#include "kernels/side_by_side.h"

namespace {

const std::thread::id main_thread = std::this_thread::get_id();

// R may be asked on its own thread only; pieces of work have no pieces.
std::size_t processors_of_option() {
  if (std::this_thread::get_id() != main_thread) return 1;
  const SEXP option = Rf_GetOption1(Rf_install("backfill.threads"));
  if (Rf_isNull(option)) return backfill::processors_of_environment();
  const double asked = Rf_isNumeric(option) ? Rf_asReal(option) : NA_REAL;
  if (!(asked >= 1)) {
    Rcpp::stop(
        "The option `backfill.threads` must be a number of threads, 1 or "
        "more.");
  }
  return static_cast<std::size_t>(std::min(asked, 64.0));
}

}  // namespace

// [[Rcpp::init]]
void take_threads_from_option(DllInfo* dll) {
  static_cast<void>(dll);
  backfill::processors_asked = processors_of_option;
}
