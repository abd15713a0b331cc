// Reads numbers as people write them: 1250, -3.5, 1.2e6, 1,250.5, 1.250,5, 1
// 250, (1,250), 12.5 %, $ 4.20, 1250-.
#ifndef BACKFILL_WRITTEN_NUMBER_H
#define BACKFILL_WRITTEN_NUMBER_H

#include <cmath>
#include <cstddef>
#include <cstdlib>
#include <cstring>
#include <string>

namespace backfill {

enum class NumberOutcome {
  read = 0,
  blank = 1,
  not_a_number = 2,
  infinite = 3
};

// What else stands with the figure: bits of WrittenNumber::marks.
enum NumberMark {
  percent_sign = 1,
  thousands_mark = 2,
  currency_sign = 4,
  in_brackets = 8
};

struct WrittenNumber {
  NumberOutcome outcome;
  double value;
  int marks;
  std::string currency;
};

namespace detail {

struct Letters {
  const char* at;
  const char* end;

  std::size_t left() const { return static_cast<std::size_t>(end - at); }
  bool starts(const char* with) const {
    const std::size_t n = std::strlen(with);
    return left() >= n && std::memcmp(at, with, n) == 0;
  }
  bool ends(const char* with) const {
    const std::size_t n = std::strlen(with);
    return left() >= n && std::memcmp(end - n, with, n) == 0;
  }
  bool take_front(const char* with) {
    if (!starts(with)) return false;
    at += std::strlen(with);
    return true;
  }
  bool take_back(const char* with) {
    if (!ends(with)) return false;
    end -= std::strlen(with);
    return true;
  }
  // Blanks, no-break blanks and thin ones too.
  void trim() {
    while (take_front(" ") || take_front("\t") || take_front("\xc2\xa0") ||
           take_front("\xe2\x80\xaf")) {
    }
    while (take_back(" ") || take_back("\t") || take_back("\xc2\xa0") ||
           take_back("\xe2\x80\xaf")) {
    }
  }
};

// The signs of Unicode's currency block, and those of Latin-1.
inline bool take_currency(Letters* x, std::string* currency) {
  static const char* const signs[] = {"$", "\xc2\xa2", "\xc2\xa3", "\xc2\xa4",
                                      "\xc2\xa5"};
  for (const char* sign : signs) {
    if (x->take_front(sign) || x->take_back(sign)) {
      *currency = sign;
      return true;
    }
  }
  const auto block = [](const char* p) {
    const unsigned char third = static_cast<unsigned char>(p[2]);
    return p[0] == '\xe2' && p[1] == '\x82' && third >= 0xa0 && third <= 0xbf;
  };
  if (x->left() >= 3 && block(x->at)) {
    currency->assign(x->at, 3);
    x->at += 3;
    return true;
  }
  if (x->left() >= 3 && block(x->end - 3)) {
    currency->assign(x->end - 3, 3);
    x->end -= 3;
    return true;
  }
  return false;
}

inline bool is_digit(char c) { return c >= '0' && c <= '9'; }

// The thousands mark that stands at `p`, in bytes; 0 for none.
inline std::size_t thousands_at(const char* p, const char* end, char decimal) {
  const std::size_t left = static_cast<std::size_t>(end - p);
  if (left == 0) return 0;
  if (*p == (decimal == '.' ? ',' : '.') || *p == ' ' || *p == '\'') return 1;
  if (left >= 2 && std::memcmp(p, "\xc2\xa0", 2) == 0) return 2;
  if (left >= 3 && (std::memcmp(p, "\xe2\x80\xaf", 3) == 0 ||
                    std::memcmp(p, "\xe2\x80\x99", 3) == 0))
    return 3;
  return 0;
}

// The digits of a number without sign as C's strtod() takes them. Thousands
// stand in groups of three behind one to three digits, all parted by the same
// mark.
inline bool plain_digits(Letters x, char decimal, std::string* plain,
                         bool* grouped) {
  const char* p = x.at;
  std::size_t whole = 0, parts = 0;
  while (p != x.end && is_digit(*p)) {
    plain->push_back(*p++);
    ++whole;
  }
  const std::size_t mark = thousands_at(p, x.end, decimal);
  if (mark > 0 && whole >= 1 && whole <= 3) {
    const std::string with(p, mark);
    while (static_cast<std::size_t>(x.end - p) >= mark + 3 &&
           std::memcmp(p, with.data(), mark) == 0 && is_digit(p[mark]) &&
           is_digit(p[mark + 1]) && is_digit(p[mark + 2])) {
      plain->append(p + mark, 3);
      p += mark + 3;
      *grouped = true;
    }
    whole += *grouped;
  }
  if (p != x.end && *p == decimal) {
    plain->push_back('.');
    ++p;
    for (; p != x.end && is_digit(*p); ++p, ++parts) plain->push_back(*p);
  }
  if (whole + parts == 0) return false;
  if (p != x.end && (*p == 'e' || *p == 'E')) {
    plain->push_back(*p++);
    if (p != x.end && (*p == '+' || *p == '-')) plain->push_back(*p++);
    if (p == x.end || !is_digit(*p)) return false;
    for (; p != x.end && is_digit(*p); ++p) plain->push_back(*p);
  }
  return p == x.end;
}

}  // namespace detail

inline WrittenNumber read_number(const char* text, std::size_t length,
                                 char decimal) {
  detail::Letters x{text, text + length};
  x.trim();
  WrittenNumber out{NumberOutcome::not_a_number, 0, 0, ""};
  if (x.left() == 0) {
    out.outcome = NumberOutcome::blank;
    return out;
  }
  bool negative = false;
  if (x.starts("(") && x.ends(")")) {
    ++x.at;
    --x.end;
    negative = true;
    out.marks |= in_brackets;
    x.trim();
  }
  bool sign_read = negative;
  const auto take_sign = [&] {
    if (sign_read) return;
    sign_read = true;
    if (x.take_front("-") || x.take_front("\xe2\x88\x92")) {
      negative = true;
    } else if (!x.take_front("+")) {
      sign_read = false;
    }
    x.trim();
  };
  take_sign();
  if (detail::take_currency(&x, &out.currency)) out.marks |= currency_sign;
  x.trim();
  if (x.take_back("%")) {
    out.marks |= percent_sign;
    x.trim();
  }
  take_sign();
  if (!sign_read && x.left() > 1 && x.take_back("-")) {  // as ledgers write it
    negative = true;
    x.trim();
  }
  if (x.left() > 2 && (x.at[0] == 'I' || x.at[0] == 'i')) {
    std::string word(x.at, x.left());
    for (char& c : word)
      c = static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
    if (word == "inf" || word == "infinity")
      out.outcome = NumberOutcome::infinite;
    return out;
  }
  std::string plain;
  bool grouped = false;
  if (!detail::plain_digits(x, decimal, &plain, &grouped)) return out;
  if (grouped) out.marks |= thousands_mark;
  const double value = std::strtod(plain.c_str(), nullptr);
  out.outcome =
      std::isfinite(value) ? NumberOutcome::read : NumberOutcome::infinite;
  out.value = negative ? -value : value;
  return out;
}

}  // namespace backfill

#endif
