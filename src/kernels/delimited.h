// Cuts delimited text into records and fields, one byte after the other: the
// careful way, for headers and for files that are not as regular as a fast
// reader needs them. It knows of each record on which line it starts, and of a
// quote that is never closed where it was opened.
#ifndef BACKFILL_DELIMITED_H
#define BACKFILL_DELIMITED_H

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <string>
#include <vector>

namespace backfill {

// Without quotes where `quote` is '\0'.
struct DelimitedForm {
  char delimiter;
  char quote;
};

struct Record {
  std::size_t line;   // on which it starts, from 1
  std::size_t start;  // of its text in bytes
  std::size_t end;    // behind its text, without the line's end
  std::vector<std::string> fields;
  bool open_quote;  // the text ended inside a quoted field

  bool blank() const {
    return fields.size() == 1 &&
           fields[0].find_first_not_of(" \t") == std::string::npos;
  }
};

// Reads one record after the other from text in memory. Lines end with LF, CR
// LF or, where there is no LF at all, CR.
class RecordCutter {
 public:
  RecordCutter(const char* text, std::size_t n, DelimitedForm form)
      : text_(text),
        n_(n),
        form_(form),
        eol_(n > 0 && std::memchr(text, '\n', n) == nullptr ? '\r' : '\n') {
    if (n >= 3 && std::memcmp(text, "\xef\xbb\xbf", 3) == 0)
      at_ = 3;  // the byte order mark
  }

  std::size_t line() const { return line_; }  // of the next record

  void skip_lines(std::size_t count) {
    while (count-- > 0 && at_ < n_) {
      while (at_ < n_ && text_[at_] != eol_) ++at_;
      end_line();
    }
  }

  // False where the text is at its end.
  bool next(Record* out) {
    if (at_ >= n_) return false;
    out->line = line_;
    out->start = at_;
    out->fields.clear();
    out->open_quote = false;
    while (true) {
      out->fields.emplace_back();
      const bool more = read_field(&out->fields.back(), &out->open_quote);
      if (!more) break;
    }
    out->end = at_;
    if (out->end > out->start && eol_ == '\n' && text_[out->end - 1] == '\r' &&
        !out->open_quote)
      --out->end;
    end_line();
    return true;
  }

 private:
  void end_line() {
    if (at_ < n_) {
      ++at_;
      ++line_;
    }
  }

  bool line_ends_at(std::size_t i) const {
    return i >= n_ || text_[i] == eol_ ||
           (text_[i] == '\r' && (i + 1 >= n_ || text_[i + 1] == eol_));
  }

  // Leaves off behind the field: at a line's end, or behind a delimiter, where
  // it gives true. A quote counts as one at the start of a field, and closes it
  // before a delimiter or a line's end; elsewhere it is a letter like any
  // other.
  bool read_field(std::string* field, bool* open_quote) {
    if (form_.quote != '\0' && at_ < n_ && text_[at_] == form_.quote) {
      ++at_;
      while (true) {
        if (at_ >= n_) {
          *open_quote = true;
          return false;
        }
        const char c = text_[at_++];
        if (c == form_.quote) {
          if (at_ < n_ && text_[at_] == form_.quote) {
            ++at_;
          } else if (line_ends_at(at_) || text_[at_] == form_.delimiter) {
            break;
          }
        } else if (c == eol_) {
          ++line_;
        }
        field->push_back(c);
      }
    } else {
      const std::size_t start = at_;
      while (at_ < n_ && text_[at_] != form_.delimiter && text_[at_] != eol_)
        ++at_;
      std::size_t end = at_;
      if (line_ends_at(at_) && end > start && text_[end - 1] == '\r') --end;
      field->assign(text_ + start, end - start);
    }
    if (at_ < n_ && text_[at_] == '\r' && eol_ == '\n' && line_ends_at(at_))
      ++at_;
    if (at_ < n_ && text_[at_] == form_.delimiter) {
      ++at_;
      return true;
    }
    return false;
  }

  const char* text_;
  std::size_t n_;
  DelimitedForm form_;
  char eol_;
  std::size_t at_ = 0;
  std::size_t line_ = 1;
};

// What a text holds by the byte, looked at sixteen at a time (by the vectors of
// GCC and Clang): how many lines end and how many zero bytes there are, whether
// there is a quotation mark, and whether there is anything but ASCII.
class ByteCount {
 public:
  explicit ByteCount(char quote) : quote_(quote) {}

  std::uint64_t lines = 0, zeros = 0;
  bool quoted = false, ascii = true;

  void add(const char* text, std::size_t n) {
    std::size_t i = 0;
    while (i + sizeof(Bytes) <= n) {
      // A count in each of the bytes side by side, added up before one of them
      // can overflow.
      Bytes line_marks{}, zero_marks{}, quote_marks{}, any{};
      for (int k = 0; k < 255 && i + sizeof(Bytes) <= n;
           ++k, i += sizeof(Bytes)) {
        Bytes bytes;
        std::memcpy(&bytes, text + i, sizeof(Bytes));
        // A comparison gives 255 where it holds, which is -1.
        line_marks -= reinterpret_cast<Bytes>(bytes == all('\n'));
        zero_marks -= reinterpret_cast<Bytes>(bytes == all('\0'));
        quote_marks |= reinterpret_cast<Bytes>(bytes == all(quote_));
        any |= bytes;
      }
      for (std::size_t k = 0; k < sizeof(Bytes); ++k) {
        lines += line_marks[k];
        zeros += zero_marks[k];
        quoted |= quote_marks[k] != 0;
        ascii &= any[k] < 128;
      }
    }
    for (; i < n; ++i) {
      lines += text[i] == '\n';
      zeros += text[i] == '\0';
      quoted |= text[i] == quote_;
      ascii &= static_cast<unsigned char>(text[i]) < 128;
    }
  }

 private:
  typedef unsigned char Bytes __attribute__((vector_size(16)));

  static Bytes all(char c) { return Bytes{} + static_cast<unsigned char>(c); }

  char quote_;
};

}  // namespace backfill

#endif
