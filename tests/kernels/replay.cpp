// Runs one fuzz target over the inputs that were kept, without libFuzzer:
// replay FOLDER. Prints how many there were.
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <iterator>
#include <memory>
#include <vector>

#include "fuzz.h"

int main(int count, char** names) {
  if (count != 2) return 2;
  std::size_t inputs = 0;
  for (const auto& entry : std::filesystem::directory_iterator(names[1])) {
    std::ifstream in(entry.path(), std::ios::binary);
    const std::vector<char> kept((std::istreambuf_iterator<char>(in)),
                                 std::istreambuf_iterator<char>());
    // A copy of just its size, so that a byte too far is noticed.
    const std::unique_ptr<std::uint8_t[]> input(new std::uint8_t[kept.size()]);
    if (!kept.empty()) std::memcpy(input.get(), kept.data(), kept.size());
    LLVMFuzzerTestOneInput(input.get(), kept.size());
    ++inputs;
  }
  std::cout << inputs << '\n';
  return inputs > 0 ? 0 : 2;
}
