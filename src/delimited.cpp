// Doors to delimited text files: what is in them by the byte, their first
// records, and a careful reading of all.
#include <Rcpp/Lightest>

#include <algorithm>
#include <cstdio>
#include <fstream>
#include <string>
#include <vector>

#include "delimited.h"
#include "lines.h"
#include "reporter.h"

using namespace backfill;

namespace {

DelimitedForm form_of(const std::string& delimiter, const std::string& quote) {
  return {delimiter.empty() ? ',' : delimiter[0],
          quote.empty() ? '\0' : quote[0]};
}

std::string read_whole(const std::string& path,
                       std::size_t most = std::string::npos) {
  std::ifstream in(path, std::ios::binary | std::ios::ate);
  if (!in) Rcpp::stop("the file cannot be opened");
  std::size_t size = static_cast<std::size_t>(in.tellg());
  if (size > most) size = most;
  std::string text(size, '\0');
  in.seekg(0);
  in.read(&text[0], static_cast<std::streamsize>(size));
  return text;
}

SEXP utf8(const std::string& text) {
  return Rf_mkCharLenCE(text.data(), static_cast<int>(text.size()), CE_UTF8);
}

Rcpp::CharacterVector utf8_fields(const Record& record) {
  Rcpp::CharacterVector out(static_cast<R_xlen_t>(record.fields.size()));
  for (std::size_t i = 0; i < record.fields.size(); ++i) {
    // R holds no zero bytes in text; they are counted elsewhere.
    std::string field = record.fields[i].substr(0, record.fields[i].find('\0'));
    SET_STRING_ELT(out, static_cast<R_xlen_t>(i), utf8(field));
  }
  return out;
}

}  // namespace

// Lines (a last one without an end counts) and zero bytes of a file, whether
// the quotation mark is in it, and whether it is all of ASCII.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector count_bytes_cpp(std::string path, std::string quote) {
  std::FILE* in = std::fopen(path.c_str(), "rb");
  if (in == nullptr) Rcpp::stop("the file cannot be opened");
  std::setvbuf(in, nullptr, _IONBF, 0);
  std::vector<char> block(std::size_t{1}
                          << 17);  // small enough to stay near the processor
  ByteCount count(quote.empty() ? '"' : quote[0]);
  char last = '\n';
  while (const std::size_t n = std::fread(block.data(), 1, block.size(), in)) {
    count.add(block.data(), n);
    last = block[n - 1];
  }
  std::fclose(in);
  return Rcpp::NumericVector::create(
      Rcpp::_["lines"] = static_cast<double>(count.lines + (last != '\n')),
      Rcpp::_["zeros"] = static_cast<double>(count.zeros),
      Rcpp::_["quoted"] = count.quoted, Rcpp::_["ascii"] = count.ascii);
}

// Up to `most` records behind the first `skip` lines, blank ones left out, and
// the lines on which they start. Of a long file only as much is read as they
// need.
// [[Rcpp::export(rng = false)]]
Rcpp::List first_records_cpp(std::string path, std::string delimiter,
                             std::string quote, int skip, int most) {
  for (std::size_t size = std::size_t{1} << 16;; size *= 16) {
    const std::string text = read_whole(path, size);
    RecordCutter cutter(text.data(), text.size(), form_of(delimiter, quote));
    cutter.skip_lines(static_cast<std::size_t>(skip));
    std::vector<Record> found;
    Record record;
    std::size_t behind = cutter.line();
    // The last record of a part may be cut short.
    while (found.size() < static_cast<std::size_t>(most) &&
           cutter.next(&record)) {
      if (!record.blank()) found.push_back(record);
      behind = cutter.line();
    }
    const bool whole = text.size() < size;
    if (!whole && found.size() < static_cast<std::size_t>(most) + 1 &&
        record.end >= text.size())
      continue;
    Rcpp::List fields(static_cast<R_xlen_t>(found.size()));
    Rcpp::IntegerVector line(static_cast<R_xlen_t>(found.size()));
    for (std::size_t i = 0; i < found.size(); ++i) {
      fields[static_cast<R_xlen_t>(i)] = utf8_fields(found[i]);
      line[static_cast<R_xlen_t>(i)] = static_cast<int>(found[i].line);
    }
    return Rcpp::List::create(
        Rcpp::_["fields"] = fields, Rcpp::_["line"] = line,
        Rcpp::_["next_line"] = static_cast<double>(behind));
  }
}

// Reads each record behind the first `skip` lines. Those of `width` fields are
// written to `out`, if it is named, with the unit separator (0x1F) between
// fields and the record separator (0x1E) for line breaks inside them, so that
// nothing needs quotes; a further field that holds nothing is left out. Gives
// the lines of those, of the others line, text and number of fields, how many
// blank lines there are, and the line of a quote that is never closed (0 for
// none).
// [[Rcpp::export(rng = false)]]
Rcpp::List careful_records_cpp(std::string path, std::string out,
                               std::string delimiter, std::string quote,
                               int skip, int width,
                               Rcpp::Nullable<Rcpp::Function> report) {
  const std::string text = read_whole(path);
  const Reporter reporter(report, text.size());
  RecordCutter cutter(text.data(), text.size(), form_of(delimiter, quote));
  cutter.skip_lines(static_cast<std::size_t>(skip));
  std::ofstream to;
  if (!out.empty()) to.open(out, std::ios::binary);
  std::vector<int> line, bad_line, bad_fields;
  std::vector<std::string> bad_text;
  double blank = 0;
  int open_quote = 0;
  std::string clean;
  Record record;
  while (cutter.next(&record)) {
    reporter.through(record.end);
    if (record.open_quote) {
      open_quote = static_cast<int>(record.line);
      break;
    }
    if (record.blank()) {
      ++blank;
      continue;
    }
    std::size_t fields = record.fields.size();
    if (fields == static_cast<std::size_t>(width) + 1 &&
        record.fields.back().empty())
      --fields;
    if (fields != static_cast<std::size_t>(width)) {
      bad_line.push_back(static_cast<int>(record.line));
      bad_fields.push_back(static_cast<int>(record.fields.size()));
      bad_text.push_back(text.substr(record.start, record.end - record.start));
      continue;
    }
    line.push_back(static_cast<int>(record.line));
    if (out.empty()) continue;
    clean.clear();
    for (std::size_t i = 0; i < fields; ++i) {
      if (i > 0) clean.push_back('\x1f');
      for (char c : record.fields[i]) clean.push_back(c == '\n' ? '\x1e' : c);
    }
    clean.push_back('\n');
    to.write(clean.data(), static_cast<std::streamsize>(clean.size()));
  }
  Rcpp::CharacterVector texts(static_cast<R_xlen_t>(bad_text.size()));
  for (std::size_t i = 0; i < bad_text.size(); ++i)
    SET_STRING_ELT(texts, static_cast<R_xlen_t>(i), utf8(bad_text[i]));
  return Rcpp::List::create(
      Rcpp::_["line"] = line, Rcpp::_["bad_line"] = bad_line,
      Rcpp::_["bad_fields"] = bad_fields, Rcpp::_["bad_text"] = texts,
      Rcpp::_["blank"] = blank, Rcpp::_["open_quote"] = open_quote);
}

// Writes `header` and the lines of a text from byte `start` on into a file of
// their own: about `bytes` of them, up to the last end of a line that does not
// lie in quotes. Gives the byte behind them and how many ends of lines they
// hold.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector write_chunk_cpp(std::string path, double start,
                                    double bytes, std::string quote,
                                    Rcpp::RawVector header, std::string chunk) {
  std::ifstream from(path, std::ios::binary);
  std::vector<char> block;
  std::size_t cut = 0;
  for (;; bytes *= 2) {
    block.resize(static_cast<std::size_t>(bytes));
    from.clear();
    from.seekg(static_cast<std::streamoff>(start));
    from.read(block.data(), static_cast<std::streamsize>(block.size()));
    const std::size_t got = static_cast<std::size_t>(from.gcount());
    const bool end = got < block.size();
    block.resize(got);
    cut = end ? got
              : cut_lines(block.data(), got, quote.empty() ? '\0' : quote[0]);
    if (cut > 0 || end) break;
  }
  std::ofstream to(chunk, std::ios::binary);
  to.write(reinterpret_cast<const char*>(header.begin()),
           static_cast<std::streamsize>(header.size()));
  to.write(block.data(), static_cast<std::streamsize>(cut));
  to.close();
  if (!to) Rcpp::stop("%s cannot be written: is the disk full?", chunk);
  return Rcpp::NumericVector::create(
      start + static_cast<double>(cut),
      static_cast<double>(std::count(block.data(), block.data() + cut, '\n')));
}
