// The form of a YAML text, token by token as a parser comes to them: how deep
// it nests, and where a token is a tag (!), an anchor (&) or a reference (*).
// What stands inside a scalar of any style is text.
#pragma once

#include <algorithm>
#include <cstddef>
#include <string>
#include <vector>

namespace backfill {

struct YamlForm {
  std::size_t depth = 0;   // the deepest nesting
  std::size_t marked = 0;  // the line of the first such mark, 0 for none
  std::size_t parts = 0;   // how many lists, maps and entries there are
};

class YamlScanner {
 public:
  explicit YamlScanner(const std::string& text) : text_(text) {}

  YamlForm scan() {
    while (at_ < text_.size()) {
      step_over_blanks();
      if (at_ < text_.size()) token();
    }
    return form_;
  }

 private:
  const std::string& text_;
  std::size_t at_ = 0;
  std::size_t line_ = 1;
  std::size_t line_start_ = 0;
  std::size_t flow_ = 0;         // open brackets
  std::vector<long> blocks_;     // columns of the open blocks
  long entry_ = -1;              // the column that the current entry stands in
  bool first_on_line_ = true;    // only blanks and dashes before, on the line
  YamlForm form_;

  char at(std::size_t i) const { return i < text_.size() ? text_[i] : '\n'; }

  static bool blank(char c) {
    return c == ' ' || c == '\t' || c == '\n' || c == '\r';
  }

  static bool bracket(char c) {
    return c == ',' || c == '[' || c == ']' || c == '{' || c == '}';
  }

  long column() const { return static_cast<long>(at_ - line_start_); }

  void next() {
    if (text_[at_++] == '\n') {
      ++line_;
      line_start_ = at_;
      first_on_line_ = true;
    }
  }

  void to_line_end() {
    while (at_ < text_.size() && text_[at_] != '\n') ++at_;
  }

  void step_over_blanks() {
    while (at_ < text_.size() && blank(text_[at_])) next();
  }

  void deepen() {
    ++form_.parts;
    form_.depth = std::max(form_.depth, blocks_.size() + flow_);
  }

  // A block begins, or goes on, in the column of its entry.
  void open_block() {
    const long here = column();
    while (!blocks_.empty() && blocks_.back() > here) blocks_.pop_back();
    if (blocks_.empty() || blocks_.back() < here) blocks_.push_back(here);
    entry_ = here;
    deepen();
  }

  void token() {
    const char c = text_[at_];
    const bool alone = blank(at(at_ + 1));
    if (c == '#') return to_line_end();
    if (c == '%' && column() == 0) return to_line_end();
    if (column() == 0 && (is_mark("---") || is_mark("..."))) {
      at_ += 3;
      blocks_.clear();
      entry_ = -1;
      return;
    }
    if (c == '[' || c == '{') {
      ++flow_;
      deepen();
      return next();
    }
    if (c == ']' || c == '}') {
      if (flow_ > 0) --flow_;
      return next();
    }
    if ((c == '-' || c == '?') && alone && flow_ == 0) {
      open_block();
      return next();
    }
    if (c == ',' || (c == ':' && (alone || flow_ > 0)) || (c == '?' && alone))
      return next();
    if (c == '!' || ((c == '&' || c == '*') && !alone)) {
      if (form_.marked == 0) form_.marked = line_;
      while (at_ < text_.size() && !blank(text_[at_])) ++at_;
      return;
    }
    if ((c == '|' || c == '>') && flow_ == 0) return block_scalar();
    if (flow_ == 0 && first_on_line_) open_block();
    first_on_line_ = false;
    if (c == '"' || c == '\'') return quoted(c);
    plain();
  }

  bool is_mark(const char* mark) const {
    return text_.compare(at_, 3, mark) == 0 && blank(at(at_ + 3));
  }

  void quoted(char mark) {
    next();
    while (at_ < text_.size()) {
      if (text_[at_] == mark) {
        if (mark == '"' || at(at_ + 1) != mark) return next();
        ++at_;
      } else if (mark == '"' && text_[at_] == '\\') {
        next();
        if (at_ >= text_.size()) return;
      }
      next();
    }
  }

  // To what ends it on its line, and on over lines that are its own: further in
  // than the entry, or within brackets.
  void plain() {
    while (true) {
      bool key = false;
      while (at_ < text_.size() && text_[at_] != '\n') {
        const char c = text_[at_];
        const char after = at(at_ + 1);
        key = c == ':' && (blank(after) || (flow_ > 0 && bracket(after)));
        if (key || (flow_ > 0 && bracket(c))) break;
        if (c == '#' && at_ > 0 && blank(text_[at_ - 1])) break;
        ++at_;
      }
      if (key || at(at_) != '\n') return;
      std::size_t ahead = at_;
      while (ahead < text_.size() && blank(text_[ahead])) ++ahead;
      if (ahead >= text_.size() || text_[ahead] == '#') return;
      const std::size_t start = text_.rfind('\n', ahead) + 1;
      const bool own = flow_ > 0 ? !bracket(text_[ahead]) && text_[ahead] != ':'
                                 : goes_on(ahead, start);
      if (!own) return;
      while (at_ < ahead) next();
      first_on_line_ = false;
    }
  }

  // Whether a line is a further one of a plain scalar. It is no key, and stands
  // further in than what the scalar is the value of.
  bool goes_on(std::size_t ahead, std::size_t start) const {
    if (static_cast<long>(ahead - start) <= entry_) return false;
    for (std::size_t i = ahead; i < text_.size() && text_[i] != '\n'; ++i) {
      if (text_[i] == ':' && blank(at(i + 1))) return false;
      if (text_[i] == '#' && blank(text_[i - 1])) break;
    }
    return true;
  }

  // The lines of a text after | or >, all that are further in than its entry.
  void block_scalar() {
    to_line_end();
    while (at_ < text_.size()) {
      next();
      std::size_t ahead = at_;
      while (ahead < text_.size() && text_[ahead] == ' ') ++ahead;
      const bool empty = at(ahead) == '\n' || at(ahead) == '\r';
      if (!empty && static_cast<long>(ahead - at_) <= entry_) return;
      to_line_end();
    }
  }
};

inline YamlForm yaml_form(const std::string& text) {
  return YamlScanner(text).scan();
}

}  // namespace backfill
