#include "world/packed_cells.h"

#include <algorithm>
#include <cstring>

namespace acre {
namespace {

/// How many cells are looked at together where all are alike.
constexpr size_t kTogether = 16;

bool allAlike(const uint16_t* cells, size_t count) {
  return std::memcmp(cells, cells + 1, (count - 1) * sizeof(uint16_t)) == 0;
}

/// The values that occur, ascending. Neighbours are mostly alike, so that runs are looked at, not
/// cells.
std::vector<uint16_t> valuesIn(std::span<const uint16_t> cells) {
  std::vector<uint16_t> seen;
  constexpr size_t kFew = 24;  // As long as a look along the list is the quickest way.
  size_t i = 0;
  for (; i < cells.size() && seen.size() <= kFew; ++i) {
    if (i > 0 && cells[i] == cells[i - 1]) {
      while (i + kTogether < cells.size() && allAlike(cells.data() + i, kTogether + 1))
        i += kTogether;
      continue;
    }
    if (std::find(seen.begin(), seen.end(), cells[i]) == seen.end()) seen.push_back(cells[i]);
  }
  if (i < cells.size()) {
    seen.assign(cells.begin(), cells.end());
    std::sort(seen.begin(), seen.end());
    seen.erase(std::unique(seen.begin(), seen.end()), seen.end());
  }
  std::sort(seen.begin(), seen.end());
  return {seen.begin(), seen.end()};  // No larger than it need be.
}

int bitsFor(size_t values) {
  int bits = 0;
  while (values > size_t{1} << bits) bits = bits == 0 ? 1 : bits * 2;
  return bits;
}

}  // namespace

PackedCells::PackedCells(std::span<const uint16_t> cells)
    : size_(cells.size()), palette_(valuesIn(cells)) {
  bits_ = bitsFor(palette_.size());
  if (bits_ == 0) return;
  const auto perWord = static_cast<size_t>(64 / bits_);
  words_.resize((size_ + perWord - 1) / perWord);
  uint64_t place = 0;
  for (size_t w = 0, i = 0; w < words_.size(); ++w) {
    uint64_t word = 0;
    const size_t end = std::min(size_, i + perWord);
    if (i > 0 && end == i + perWord && cells[i] == cells[i - 1] &&
        allAlike(cells.data() + i, perWord)) {
      words_[w] = place * (~uint64_t{0} / ((uint64_t{1} << bits_) - 1));
      i = end;
      continue;
    }
    for (int shift = 0; i < end; ++i, shift += bits_) {
      if (i == 0 || cells[i] != cells[i - 1])
        place = static_cast<uint64_t>(std::lower_bound(palette_.begin(), palette_.end(), cells[i]) -
                                      palette_.begin());
      word |= place << shift;
    }
    words_[w] = word;
  }
}

std::vector<uint16_t> PackedCells::unpacked() const {
  std::vector<uint16_t> cells(size_);
  for (size_t i = 0; i < size_; ++i) cells[i] = (*this)[i];
  return cells;
}

uint64_t PackedCells::mostHeapBytes(size_t cells) {
  const size_t values = std::min<size_t>(cells, 65'536);
  const auto bits = static_cast<uint64_t>(bitsFor(values));
  return values * sizeof(uint16_t) + (cells * bits + 63) / 64 * sizeof(uint64_t);
}

}  // namespace acre
