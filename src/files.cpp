// Doors to what R's connections do not tell of files: of what kind they are,
// and whether all bytes arrived.
#include <Rcpp/Lightest>

#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <string>
#include <vector>

#include "shortest.h"
#include "yaml_form.h"

#ifdef _WIN32
#include <io.h>
#else
#include <unistd.h>
#endif
#ifdef __linux__
#include <fcntl.h>
#include <sys/syscall.h>
#endif

namespace {

// Calls `put(bytes, count)` with the blocks of a file; the reason where one of
// them fails, else nothing.
template <typename Put>
std::string each_block(const std::string& path, Put put) {
  std::FILE* from = std::fopen(path.c_str(), "rb");
  if (from == nullptr) return std::strerror(errno);
  std::vector<char> block(1 << 16);
  std::string fault;
  for (std::size_t n;
       fault.empty() &&
       (n = std::fread(block.data(), 1, block.size(), from)) > 0;) {
    if (!put(block.data(), n)) fault = std::strerror(errno);
  }
  if (fault.empty() && std::ferror(from) != 0) fault = "it cannot be read back";
  std::fclose(from);
  return fault;
}

volatile std::sig_atomic_t ended = 0;

// As an interrupt by the user, of which R knows how to leave everything tidy.
extern "C" void on_end(int) {
  ended = 1;
  std::raise(SIGINT);
}

}  // namespace

// From now on a request to end (SIGTERM) is taken for an interrupt.
// [[Rcpp::export(rng = false)]]
void tidy_end_cpp() { std::signal(SIGTERM, on_end); }

// Whether such a request came.
// [[Rcpp::export(rng = false)]]
bool asked_to_end_cpp() { return ended != 0; }

// "none", "regular", "folder", or "other" for pipes, devices and the like;
// links are followed.
// [[Rcpp::export(rng = false)]]
std::string file_kind_cpp(std::string path) {
  std::error_code fault;
  const std::filesystem::file_status status =
      std::filesystem::status(path, fault);
  if (fault || !std::filesystem::exists(status)) return "none";
  if (std::filesystem::is_regular_file(status)) return "regular";
  return std::filesystem::is_directory(status) ? "folder" : "other";
}

// Puts each of two folders in the place of the other, in one move where the
// system can; false where it does not work.
// [[Rcpp::export(rng = false)]]
bool exchange_folders_cpp(std::string one, std::string other) {
#if defined(__linux__) && defined(SYS_renameat2)
  constexpr unsigned exchange = 2;  // RENAME_EXCHANGE
  if (syscall(SYS_renameat2, AT_FDCWD, one.c_str(), AT_FDCWD, other.c_str(),
              exchange) == 0)
    return true;
#elif defined(__APPLE__) && defined(RENAME_SWAP)
  if (renamex_np(one.c_str(), other.c_str(), RENAME_SWAP) == 0) return true;
#endif
  const std::string aside = one + "-old";
  if (std::rename(other.c_str(), aside.c_str()) != 0) return false;
  if (std::rename(one.c_str(), other.c_str()) == 0)
    return std::rename(aside.c_str(), one.c_str()) == 0;
  std::rename(aside.c_str(), other.c_str());
  return false;
}

// Copies the bytes of a file to another place, which may be a device; the
// reason where that fails, else "".
// [[Rcpp::export(rng = false)]]
std::string copy_bytes_cpp(std::string from, std::string to) {
  std::FILE* out = std::fopen(to.c_str(), "wb");
  if (out == nullptr) return std::strerror(errno);
  std::string fault = each_block(from, [&](const char* bytes, std::size_t n) {
    return std::fwrite(bytes, 1, n, out) == n;
  });
  if (std::fclose(out) != 0 && fault.empty()) fault = std::strerror(errno);
  return fault;
}

// Sends the bytes of a file to standard output; the reason where that fails,
// else "".
// [[Rcpp::export(rng = false)]]
std::string to_standard_output_cpp(std::string path) {
  return each_block(path, [](const char* bytes, std::size_t n) {
    while (n > 0) {
#ifdef _WIN32
      const int sent = _write(1, bytes, static_cast<unsigned>(n));
#else
      const ssize_t sent = write(1, bytes, n);
#endif
      if (sent < 0 && errno == EINTR) continue;
      if (sent <= 0) return false;
      bytes += sent;
      n -= static_cast<std::size_t>(sent);
    }
    return true;
  });
}

// How deep a YAML text nests, the line of its first tag, anchor or reference, 0
// where it has none, and how many parts it has.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector yaml_form_cpp(const std::string& text) {
  const backfill::YamlForm form = backfill::yaml_form(text);
  return Rcpp::IntegerVector::create(
      Rcpp::Named("depth") = static_cast<int>(form.depth),
      Rcpp::Named("marked") = static_cast<int>(form.marked),
      Rcpp::Named("parts") = static_cast<int>(form.parts));
}

// Each as the shortest text that reads back the same; NA where it is missing.
// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector shortest_text_cpp(Rcpp::NumericVector x) {
  const R_xlen_t n = x.size();
  Rcpp::CharacterVector out(n);
  char text[backfill::kLongestDecimal];
  for (R_xlen_t i = 0; i < n; ++i) {
    // Shares and counts are alike in long stretches.
    if (i > 0 && std::memcmp(&x[i], &x[i - 1], sizeof(double)) == 0) {
      SET_STRING_ELT(out, i, STRING_ELT(out, i - 1));
    } else if (R_finite(x[i])) {
      const char* end = backfill::write_shortest(x[i], text);
      SET_STRING_ELT(out, i, Rf_mkCharLen(text, static_cast<int>(end - text)));
    } else if (ISNAN(x[i])) {
      SET_STRING_ELT(out, i, NA_STRING);
    } else {
      SET_STRING_ELT(out, i, Rf_mkChar(x[i] > 0 ? "Inf" : "-Inf"));
    }
  }
  return out;
}

// Texts as the numbers nearest to them, which R's own reading may miss by a bit;
// NA for what is none.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector numbers_of_text_cpp(Rcpp::CharacterVector text) {
  const R_xlen_t n = text.size();
  Rcpp::NumericVector out(n, NA_REAL);
  for (R_xlen_t i = 0; i < n; ++i) {
    const SEXP one = STRING_ELT(text, i);
    if (one == NA_STRING || LENGTH(one) == 0) continue;
    char* end = nullptr;
    const double value = std::strtod(CHAR(one), &end);
    if (*end == '\0') out[i] = value;
  }
  return out;
}
