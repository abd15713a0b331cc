// Figures in rising order that grow one by one: in blocks, so that neither
// putting one in nor finding the k-th moves more than a few hundred.
#ifndef BACKFILL_SORTED_BLOCKS_H
#define BACKFILL_SORTED_BLOCKS_H

#include <algorithm>
#include <cstddef>
#include <vector>

namespace backfill {

class SortedBlocks {
 public:
  std::size_t size() const { return ends_.empty() ? 0 : ends_.back(); }

  void insert(double x) {
    if (blocks_.empty()) {
      blocks_.push_back({});
      ends_.push_back(0);
    }
    std::size_t b = block_of(x);
    std::vector<double>& block = blocks_[b];
    block.insert(std::upper_bound(block.begin(), block.end(), x), x);
    if (block.size() > most)
      split(b);
    else
      for (; b < ends_.size(); ++b) ++ends_[b];
  }

  double at(std::size_t k) const {
    const std::size_t b = static_cast<std::size_t>(
        std::upper_bound(ends_.begin(), ends_.end(), k) - ends_.begin());
    return blocks_[b][k - (b == 0 ? 0 : ends_[b - 1])];
  }

  // How many are less than x.
  std::size_t below(double x) const {
    std::size_t low = 0, high = size();
    while (low < high) {
      const std::size_t middle = low + (high - low) / 2;
      if (at(middle) < x)
        low = middle + 1;
      else
        high = middle;
    }
    return low;
  }

 private:
  static constexpr std::size_t most = 512;

  // The first block that ends with x or more, else the last.
  std::size_t block_of(double x) const {
    std::size_t low = 0, high = blocks_.size() - 1;
    while (low < high) {
      const std::size_t middle = low + (high - low) / 2;
      if (!blocks_[middle].empty() && blocks_[middle].back() < x)
        low = middle + 1;
      else
        high = middle;
    }
    return low;
  }

  void split(std::size_t b) {
    std::vector<double>& block = blocks_[b];
    const std::ptrdiff_t half = static_cast<std::ptrdiff_t>(block.size() / 2);
    std::vector<double> rest(block.begin() + half, block.end());
    block.resize(static_cast<std::size_t>(half));
    blocks_.insert(blocks_.begin() + static_cast<std::ptrdiff_t>(b) + 1,
                   std::move(rest));
    ends_.resize(blocks_.size());
    std::size_t end = 0;
    for (std::size_t i = 0; i < blocks_.size(); ++i)
      ends_[i] = end += blocks_[i].size();
  }

  std::vector<std::vector<double>> blocks_;
  std::vector<std::size_t>
      ends_;  // how many figures there are up to the end of each block
};

}  // namespace backfill

#endif
