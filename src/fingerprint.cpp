// What columns hold, as one number: whether they are still those that something
// was found for. R's own tools may change a column where it lies, so that being
// the same vector says nothing.
#include <Rcpp/Lightest>

#include <cstdint>
#include <cstdio>
#include <cstring>
#include <string>

namespace {

class Fingerprint {
 public:
  void add(std::uint64_t bits) {
    state_ = (state_ ^ bits) * 0x9E3779B97F4A7C15ULL;
    state_ ^= state_ >> 29;
  }

  void add(const char* text, std::size_t length) {
    add(length);
    for (std::size_t i = 0; i < length; i += 8) {
      std::uint64_t bits = 0;
      std::memcpy(&bits, text + i, std::min<std::size_t>(8, length - i));
      add(bits);
    }
  }

  std::uint64_t state() const { return state_; }

 private:
  std::uint64_t state_ = 0xCBF29CE484222325ULL;
};

std::uint64_t of_text(SEXP text) {
  Fingerprint out;
  out.add(CHAR(text), static_cast<std::size_t>(LENGTH(text)));
  if (text == NA_STRING) out.add(1);
  return out.state();
}

void add_texts(Fingerprint& out, SEXP x) {
  SEXP last = R_NilValue;
  std::uint64_t same = 0;
  for (R_xlen_t i = 0; i < Rf_xlength(x); ++i) {
    SEXP const text = STRING_ELT(x, i);
    // A series is named by one text after the other.
    if (text != last) same = of_text(text);
    last = text;
    out.add(same);
  }
}

void add_column(Fingerprint& out, SEXP x) {
  out.add(static_cast<std::uint64_t>(TYPEOF(x)));
  out.add(static_cast<std::uint64_t>(Rf_xlength(x)));
  switch (TYPEOF(x)) {
    case STRSXP:
      add_texts(out, x);
      break;
    case REALSXP:
      for (R_xlen_t i = 0; i < Rf_xlength(x); ++i) {
        std::uint64_t bits;
        std::memcpy(&bits, REAL(x) + i, sizeof bits);
        out.add(bits);
      }
      break;
    case INTSXP:
    case LGLSXP:
      for (R_xlen_t i = 0; i < Rf_xlength(x); ++i)
        out.add(static_cast<std::uint32_t>(
            TYPEOF(x) == INTSXP ? INTEGER(x)[i] : LOGICAL(x)[i]));
      break;
    default:
      break;
  }
  for (const char* name : {"levels", "class", "tzone"}) {
    SEXP const held = Rf_getAttrib(x, Rf_install(name));
    if (TYPEOF(held) == STRSXP) add_texts(out, held);
  }
}

}  // namespace

// Of columns of texts, numbers, dates and factors, as text.
// [[Rcpp::export(rng = false)]]
std::string fingerprint_cpp(Rcpp::List columns) {
  Fingerprint out;
  for (R_xlen_t i = 0; i < columns.size(); ++i) {
    out.add(static_cast<std::uint64_t>(i));
    add_column(out, columns[i]);
  }
  char text[17];
  std::snprintf(text, sizeof text, "%016llx",
                static_cast<unsigned long long>(out.state()));
  return text;
}
