// Calls back for each line of a file, a block at a time, so that a file larger
// than memory can be gone through.
#ifndef BACKFILL_LINES_H
#define BACKFILL_LINES_H

#include <cstdio>
#include <cstring>
#include <memory>
#include <stdexcept>
#include <string>
#include <vector>

namespace backfill {

// `on_line(line, start, end)`: lines are counted from 0, `end` is without LF or
// CR LF. A byte order mark is left out. `on_block(bytes)` is told after each
// block how much of the file has been gone through.
template <typename OnLine, typename OnBlock>
void for_each_line(const std::string& path, OnLine on_line, OnBlock on_block) {
  const std::unique_ptr<std::FILE, int (*)(std::FILE*)> in(
      std::fopen(path.c_str(), "rb"), std::fclose);
  if (in == nullptr) throw std::runtime_error("the file cannot be opened");
  std::vector<char> block(std::size_t{1} << 18);
  std::size_t held = 0, line = 0, through = 0;
  bool more = true;
  while (more) {
    if (held == block.size())
      block.resize(block.size() * 2);  // a line longer than the block
    const std::size_t got =
        std::fread(block.data() + held, 1, block.size() - held, in.get());
    more = got > 0;
    held += got;
    const char* at = block.data();
    const char* const end = at + held;
    if (line == 0 && held >= 3 && std::memcmp(at, "\xef\xbb\xbf", 3) == 0)
      at += 3;
    while (at != end) {
      const char* stop = static_cast<const char*>(
          std::memchr(at, '\n', static_cast<std::size_t>(end - at)));
      if (stop == nullptr && more) break;
      const char* next = stop == nullptr ? end : stop + 1;
      if (stop == nullptr) stop = end;
      if (stop != at && stop[-1] == '\r') --stop;
      on_line(line++, at, stop);
      at = next;
    }
    held = static_cast<std::size_t>(end - at);
    std::memmove(block.data(), at, held);
    on_block(through += got);
  }
}

// How many bytes of a text reach up to the last end of a line that does not lie
// in quotes; 0 where there is none. The text starts outside of quotes.
inline std::size_t cut_lines(const char* text, std::size_t size, char quote) {
  std::size_t cut = 0;
  bool quoted = false;
  for (std::size_t at = 0; at < size;) {
    // From mark to mark: the next quotation mark, and before it the last end of
    // a line.
    const void* found =
        quote == '\0' ? nullptr : std::memchr(text + at, quote, size - at);
    const std::size_t next =
        found == nullptr
            ? size
            : static_cast<std::size_t>(static_cast<const char*>(found) - text);
    if (!quoted) {
      for (std::size_t i = next; i > at; --i) {
        if (text[i - 1] == '\n') {
          cut = i;
          break;
        }
      }
    }
    quoted = !quoted;
    at = next + 1;
  }
  return cut;
}

}  // namespace backfill

#endif
