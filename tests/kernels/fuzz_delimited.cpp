// Any bytes as delimited text: the records follow each other without a gap that
// is not a line's end, hold no more than the text does, and the fast count of
// bytes agrees with the plain one.
#include <algorithm>
#include <cstring>
#include <vector>

#include "delimited.h"
#include "fuzz.h"
#include "lines.h"

using namespace backfill;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data,
                                      std::size_t size) {
  if (size < 2) return 0;
  const char delimiters[] = {',', ';', '\t', '|'},
             quotes[] = {'"', '\'', '\0', '"'};
  const DelimitedForm form{delimiters[data[0] % 4], quotes[data[1] % 4]};
  const char* text = reinterpret_cast<const char*>(data) + 2;
  const std::size_t n = size - 2;

  RecordCutter cutter(text, n, form);
  cutter.skip_lines(data[0] / 64);
  Record record;
  std::size_t behind = 0, line = 0;
  while (cutter.next(&record)) {
    must(
        record.start >= behind && record.end >= record.start && record.end <= n,
        "records follow each other");
    must(record.line > line, "each starts on a line of its own");
    must(!record.fields.empty(), "a record has a field");
    std::size_t bytes = 0;
    for (const std::string& field : record.fields) bytes += field.size();
    must(bytes <= record.end - record.start + 1,
         "fields hold no more than the text");
    behind = record.end;
    line = record.line;
  }

  const char quote = form.quote == '\0' ? '"' : form.quote;
  ByteCount count(quote);
  count.add(text, n);
  must(count.lines ==
           static_cast<std::uint64_t>(std::count(text, text + n, '\n')),
       "lines are counted");
  must(count.zeros ==
           static_cast<std::uint64_t>(std::count(text, text + n, '\0')),
       "zero bytes are counted");
  must(count.quoted == (n > 0 && std::memchr(text, quote, n) != nullptr),
       "quotes are seen");
  must(cut_lines(text, n, quote) <= n, "a cut lies within the text");
  return 0;
}
