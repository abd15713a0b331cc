// Door to files of delimited text: columns of a table as CSV.
#include <Rcpp/Lightest>

#include <cerrno>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <memory>
#include <string>
#include <vector>

#include "csv.h"

namespace {

// Writes one column row by row. Series, dates and shares are alike in long
// stretches, so the bytes of the row before are kept.
class CsvColumn {
 public:
  explicit CsvColumn(SEXP column)
      : column_(column),
        type_(TYPEOF(column)),
        day_(Rf_inherits(column, "Date")),
        levels_(Rf_isFactor(column) ? Rf_getAttrib(column, R_LevelsSymbol)
                                    : R_NilValue) {}

  const std::string& field(R_xlen_t row) {
    switch (type_) {
      case STRSXP:
        if (STRING_ELT(column_, row) != text_) {
          text_ = STRING_ELT(column_, row);
          text(text_);
        }
        break;
      case REALSXP:
        number(REAL_RO(column_)[row]);
        break;
      case INTSXP:
      case LGLSXP:
        whole(INTEGER_RO(column_)[row]);
        break;
      default:
        Rcpp::stop("a column is a list");
    }
    return bytes_;
  }

 private:
  void text(SEXP value) {
    if (value == NA_STRING) {
      bytes_.clear();
    } else {
      const void* kept = vmaxget();
      backfill::put_csv_text(Rf_translateCharUTF8(value), bytes_);
      vmaxset(kept);
    }
  }

  void number(double value) {
    if (begun_ && std::memcmp(&value, &number_, sizeof value) == 0) return;
    begun_ = true;
    number_ = value;
    if (ISNAN(value) || (day_ && !R_finite(value))) {
      bytes_.clear();
    } else if (day_) {
      backfill::put_csv_day(static_cast<std::int64_t>(std::floor(value)),
                            bytes_);
    } else {
      backfill::put_csv_number(value, bytes_);
    }
  }

  // Whole numbers, truths, levels and days kept as whole numbers.
  void whole(int value) {
    if (begun_ && value == whole_) return;
    begun_ = true;
    whole_ = value;
    if (value == NA_INTEGER) {
      bytes_.clear();
    } else if (levels_ != R_NilValue) {
      text(STRING_ELT(levels_, value - 1));
    } else if (type_ == LGLSXP) {
      bytes_ = value != 0 ? "TRUE" : "FALSE";
    } else if (day_) {
      backfill::put_csv_day(value, bytes_);
    } else {
      bytes_ = std::to_string(value);
    }
  }

  SEXP column_;
  int type_;
  bool day_;
  SEXP levels_;
  std::string bytes_;
  bool begun_ = false;
  SEXP text_ = nullptr;
  double number_ = 0;
  int whole_ = 0;
};

using File = std::unique_ptr<std::FILE, int (*)(std::FILE*)>;

}  // namespace

// Columns of text, factors, truths, numbers and days as a CSV file with a row
// of their names; the reason where not all of it could be written, else "".
// [[Rcpp::export(rng = false)]]
std::string write_csv_cpp(Rcpp::List columns, Rcpp::CharacterVector names,
                          std::string path) {
  constexpr std::size_t block = std::size_t{1} << 17;
  File out(std::fopen(path.c_str(), "wb"), std::fclose);
  if (!out) return std::strerror(errno);
  std::string bytes;
  bytes.reserve(2 * block);
  std::string fault;
  const auto flush = [&] {
    Rcpp::checkUserInterrupt();
    if (std::fwrite(bytes.data(), 1, bytes.size(), out.get()) != bytes.size()) {
      fault = std::strerror(errno);
    }
    bytes.clear();
  };
  std::vector<CsvColumn> written(columns.begin(), columns.end());
  CsvColumn header(names);
  for (R_xlen_t i = 0; i < names.size(); ++i) {
    if (i > 0) bytes += ',';
    bytes += header.field(i);
  }
  bytes += '\n';
  const R_xlen_t rows = columns.size() > 0 ? Rf_xlength(columns[0]) : 0;
  for (R_xlen_t row = 0; row < rows && fault.empty(); ++row) {
    for (std::size_t i = 0; i < written.size(); ++i) {
      if (i > 0) bytes += ',';
      bytes += written[i].field(row);
    }
    bytes += '\n';
    if (bytes.size() > block) flush();
  }
  if (fault.empty()) flush();
  if (std::fclose(out.release()) != 0 && fault.empty())
    fault = std::strerror(errno);
  return fault;
}
