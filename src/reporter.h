// Tells R from time to time which share of a file has been gone through, and
// lets the user interrupt.
#ifndef BACKFILL_REPORTER_H
#define BACKFILL_REPORTER_H

#include <Rcpp/Lightest>

#include <fstream>
#include <string>

namespace backfill {

class Reporter {
 public:
  Reporter() = default;
  // `report` is a function of a share from 0 to 1, or NULL for none.
  Reporter(Rcpp::Nullable<Rcpp::Function> report, std::size_t whole)
      : report_(report), whole_(whole) {}

  void through(std::size_t bytes) const {
    if (bytes < next_) return;
    next_ = bytes + (std::size_t{1} << 22);
    Rcpp::checkUserInterrupt();
    if (report_.isNotNull()) {
      Rcpp::Function(report_.get())(
          static_cast<double>(bytes) /
          static_cast<double>(whole_ > 0 ? whole_ : 1));
    }
  }

 private:
  Rcpp::Nullable<Rcpp::Function> report_ = R_NilValue;
  std::size_t whole_ = 0;
  mutable std::size_t next_ = std::size_t{1} << 22;
};

inline std::size_t size_of(const std::string& path) {
  std::ifstream in(path, std::ios::binary | std::ios::ate);
  return in ? static_cast<std::size_t>(in.tellg()) : 0;
}

}  // namespace backfill

#endif
