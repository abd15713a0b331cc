// The parts of a written date, numbers and names of months, before their order
// is known.
#ifndef BACKFILL_DATE_PARTS_H
#define BACKFILL_DATE_PARTS_H

#include <array>
#include <cstddef>
#include <cstring>

#include "iso8601.h"

namespace backfill {
namespace detail {

struct Number {
  int value;
  int digits;
};

struct DateParts {
  std::array<Number, 3> number{};
  std::size_t numbers = 0;
  int month = 0, quarter = 0, week = 0;
  bool fiscal = false;
  bool tuesday = false;     // the month may be a weekday, as "mar" in French
  bool slash_span = false;  // nothing but one mark between two numbers
  const char* time = nullptr;
};

// Of any alphabet in UTF-8.
inline bool is_letter(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c & 0x80) != 0;
}

// Without regard to case, which the same bit tells in ASCII and, in UTF-8, in
// the accented letters of the languages below that begin a name.
inline bool same_letter(char a, char b) { return (a | 0x20) == (b | 0x20); }

// The small letter of one of U+0100 to U+017F, as in Polish, whose capitals come
// before or behind their small letters by one.
inline unsigned small_letter(unsigned char lead, unsigned char tail) {
  const unsigned code = (lead & 0x1Fu) << 6 | (tail & 0x3Fu);
  const bool odd = (code >= 0x139 && code <= 0x148) ||
                   (code >= 0x179 && code <= 0x17E);
  return code % 2 == (odd ? 1u : 0u) ? code + 1 : code;
}

// The same of the k-th bytes of two words that are alike before.
inline bool same_at(const char* a, const char* b, std::size_t k) {
  if (same_letter(a[k], b[k])) return true;
  if (k == 0 || a[k - 1] != b[k - 1]) return false;
  const auto lead = static_cast<unsigned char>(a[k - 1]);
  return (lead == 0xC4 || lead == 0xC5) &&
         small_letter(lead, static_cast<unsigned char>(a[k])) ==
             small_letter(lead, static_cast<unsigned char>(b[k]));
}

// Whether a word of three letters at least is the start of a name; 1 for the
// first of the names, 0 for none. Each of `count` places has names in several
// languages, one after the other, up to a null.
template <std::size_t count>
int name_number(const char* word, std::size_t n,
                const char* const (&names)[count][12]) {
  if (n < 3) return 0;
  for (std::size_t i = 0; i < count; ++i) {
    for (const char* const* name = names[i]; *name != nullptr; ++name) {
      std::size_t k = 0;
      while (k < n && (*name)[k] != 0 && same_at(word, *name, k)) ++k;
      if (k == n) return static_cast<int>(i) + 1;
    }
  }
  return 0;
}

// In English, German, French, Spanish, Italian, Dutch, Portuguese and Polish,
// where they are not spelt as in one before; no beginning of three letters is
// of two months, but for the French "jui".
inline int month_number(const char* word, std::size_t n) {
  static const char* const months[12][12] = {
      {"january", "januari", "janvier", "janeiro", "j\u00e4nner", "enero",
       "gennaio", "stycze\u0144", "stycznia"},
      {"february", "februari", "f\u00e9vrier", "fevrier", "febrero", "febbraio",
       "fevereiro", "luty", "lutego"},
      {"march", "m\u00e4rz", "maerz", "mrz", "mrt", "mars", "marzo", "maart",
       "mar\u00e7o", "marzec", "marca"},
      {"april", "aprile", "avril", "abril", "kwiecie\u0144", "kwietnia"},
      {"may", "mai", "mayo", "maggio", "mei", "maio", "maj", "maja"},
      {"june", "juni", "juin", "junio", "giugno", "junho", "czerwiec",
       "czerwca"},
      {"july", "juli", "juillet", "julio", "luglio", "julho", "lipiec",
       "lipca"},
      {"august", "ao\u00fbt", "aout", "agosto", "augustus", "sierpie\u0144",
       "sierpnia"},
      {"september", "septembre", "septiembre", "setiembre", "settembre",
       "setembro", "wrzesie\u0144", "wrze\u015bnia"},
      {"october", "oktober", "octobre", "octubre", "ottobre", "outubro",
       "pa\u017adziernik", "pa\u017adziernika", "pazdziernika"},
      {"november", "novembre", "noviembre", "novembro", "listopad",
       "listopada"},
      {"december", "dezember", "d\u00e9cembre", "decembre", "diciembre",
       "dicembre", "dezembro", "grudzie\u0144", "grudnia"}};
  if (n == 3 && same_letter(word[0], 'j') && same_letter(word[1], 'u') &&
      same_letter(word[2], 'i'))
    return 0;
  return name_number(word, n, months);
}

inline bool is_weekday(const char* word, std::size_t n) {
  static const char* const weekdays[7][12] = {
      {"monday", "montag", "lundi", "lunes", "luned\u00ec", "maandag",
       "segunda", "poniedzia\u0142ek"},
      {"tuesday", "dienstag", "mardi", "martes", "marted\u00ec", "dinsdag",
       "ter\u00e7a", "wtorek"},
      {"wednesday", "mittwoch", "mercredi", "mi\u00e9rcoles", "mercoled\u00ec",
       "woensdag", "quarta", "\u015broda"},
      {"thursday", "donnerstag", "jeudi", "jueves", "gioved\u00ec", "donderdag",
       "quinta", "czwartek"},
      {"friday", "freitag", "vendredi", "viernes", "venerd\u00ec", "vrijdag",
       "sexta", "pi\u0105tek"},
      {"saturday", "samstag", "sonnabend", "samedi", "s\u00e1bado", "sabato",
       "zaterdag", "sobota"},
      {"sunday", "sonntag", "dimanche", "domingo", "domenica", "zondag",
       "niedziela"}};
  if (n != 2) return name_number(word, n, weekdays) != 0;
  // Of two letters in German, Dutch and Polish.
  for (const char* of : {"mo", "di", "mi", "do", "fr", "sa", "so", "ma", "wo",
                         "vr", "za", "zo", "pn", "wt", "cz", "pt", "nd"}) {
    if (same_letter(word[0], of[0]) && same_letter(word[1], of[1])) return true;
  }
  return false;
}

inline bool same_word(const char* word, std::size_t n, const char* with) {
  if (n != std::strlen(with)) return false;
  for (std::size_t k = 0; k < n; ++k) {
    if (!same_at(word, with, k)) return false;
  }
  return true;
}

inline bool read_word(const char* word, std::size_t n, bool behind_number,
                      DateParts* out, char* waits_for) {
  if (const int month = month_number(word, n)) {
    // "mar. 3 avril" is a Tuesday in April.
    const bool weekday = out->month == 3 && out->tuesday && out->numbers < 2;
    if (out->month != 0 && !weekday) return false;
    out->tuesday = n == 3 && month == 3 && out->numbers == 0;
    out->month = month;
    return true;
  }
  if ((is_weekday(word, n) && (n > 2 || out->numbers == 0)) ||
      same_word(word, n, "of") || same_word(word, n, "de") ||
      same_word(word, n, "feira"))
    return true;
  if (behind_number && (same_word(word, n, "st") || same_word(word, n, "nd") ||
                        same_word(word, n, "rd") || same_word(word, n, "th") ||
                        same_word(word, n, "er"))) {
    return true;
  }
  if (same_word(word, n, "fy")) {
    out->fiscal = true;
  } else if (same_word(word, n, "q")) {
    *waits_for = 'q';
  } else if (same_word(word, n, "w") || same_word(word, n, "week")) {
    *waits_for = 'w';
  } else {
    return false;
  }
  return true;
}

inline bool read_parts(const char* p, const char* end, DateParts* out) {
  char waits_for = 0;
  bool behind_number = false;
  const char* behind = nullptr;  // the last number
  while (p != end) {
    if (is_letter(*p)) {
      const char* word = p;
      while (p != end && is_letter(*p)) ++p;
      if (same_word(word, static_cast<std::size_t>(p - word), "t") &&
          out->numbers > 0) {
        out->time = p;
        return true;
      }
      if (!read_word(word, static_cast<std::size_t>(p - word), behind_number,
                     out, &waits_for))
        return false;
      behind_number = false;
    } else if (*p >= '0' && *p <= '9') {
      const char* start = p;
      Number number{0, 0};
      for (; p != end && *p >= '0' && *p <= '9' && number.digits < 9;
           ++p, ++number.digits) {
        number.value = number.value * 10 + (*p - '0');
      }
      // A time of day starts with a number before a colon, or before "am" or
      // "pm".
      const char* q = p;
      while (q != end && is_space(*q)) ++q;
      const bool half = end - q >= 2 &&
                        ((*q | 0x20) == 'a' || (*q | 0x20) == 'p') &&
                        (q[1] | 0x20) == 'm';
      if ((p != end && *p == ':') ||
          (half && out->numbers + (out->month != 0) > 1)) {
        out->time = start;
        return out->numbers > 0;
      }
      if (waits_for != 0) {
        if (number.digits > 2) return false;
        (waits_for == 'q' ? out->quarter : out->week) = number.value;
        if (number.value == 0) return false;
        waits_for = 0;
      } else {
        if (out->numbers == 3) return false;
        out->slash_span =
            out->numbers == 1 && behind != nullptr && start - behind == 1;
        out->number[out->numbers++] = number;
      }
      behind_number = true;
      behind = p;
    } else if (std::strchr(" \t,./-_'", *p) != nullptr) {
      behind_number = false;
      ++p;
    } else {
      return false;
    }
  }
  return waits_for == 0;
}

}  // namespace detail
}  // namespace backfill

#endif
