#include "world/packed_cells.h"

#include <algorithm>
#include <cstring>

namespace acre {
namespace {

/// Cells that are looked at together: as many as fill whole words at any width.
constexpr size_t kTogether = 64;
/// Palettes up to here are compared value by value, all cells of a group at once.
constexpr size_t kFew = 16;

bool allAlike(const uint16_t* cells, size_t count) {
  return std::memcmp(cells, cells + 1, (count - 1) * sizeof(uint16_t)) == 0;
}

/// True when each cell of a group is one of some values.
bool allAmong(const uint16_t* cells, const uint16_t* values, size_t count) {
  uint16_t known[kTogether] = {};
  for (size_t k = 0; k < count; ++k)
    for (size_t i = 0; i < kTogether; ++i)
      known[i] = static_cast<uint16_t>(known[i] | (cells[i] == values[k] ? 0xFFFF : 0));
  uint16_t all = 0xFFFF;
  for (const uint16_t k : known) all = static_cast<uint16_t>(all & k);
  return all == 0xFFFF;
}

/// The values that occur, ascending.
std::vector<uint16_t> valuesIn(std::span<const uint16_t> cells) {
  uint16_t few[kFew];
  size_t count = 0;
  for (size_t from = 0; from < cells.size(); from += kTogether) {
    const size_t size = std::min(kTogether, cells.size() - from);
    const uint16_t* group = cells.data() + from;
    const bool whole = size == kTogether;
    if (whole && allAlike(group, size) && std::find(few, few + count, *group) != few + count)
      continue;
    if (whole && allAmong(group, few, count)) continue;
    for (size_t i = 0; i < size; ++i) {
      if (std::find(few, few + count, group[i]) != few + count) continue;
      if (count == kFew) {
        std::vector<uint16_t> all(cells.begin(), cells.end());
        std::sort(all.begin(), all.end());
        all.erase(std::unique(all.begin(), all.end()), all.end());
        return {all.begin(), all.end()};  // No larger than it need be.
      }
      few[count++] = group[i];
    }
  }
  std::sort(few, few + count);
  return {few, few + count};
}

int bitsFor(size_t values) {
  int bits = 0;
  while (values > size_t{1} << bits) bits = bits == 0 ? 1 : bits * 2;
  return bits;
}

/// Places in the palette of a group of cells, each of which is in it.
void placesOf(const uint16_t* cells, std::span<const uint16_t> palette, uint16_t* places) {
  std::fill_n(places, kTogether, uint16_t{0});
  for (size_t k = 1; k < palette.size(); ++k)
    for (size_t i = 0; i < kTogether; ++i)
      places[i] = static_cast<uint16_t>(places[i] | (cells[i] == palette[k] ? k : 0));
}

/// Places of 4 bits at most, packed into words.
void packGroup(const uint16_t* places, int bits, uint64_t* words) {
  for (size_t i = 0; i < kTogether; i += 4) {
    const uint64_t four = places[i] | static_cast<uint64_t>(places[i + 1]) << bits |
                          static_cast<uint64_t>(places[i + 2]) << (2 * bits) |
                          static_cast<uint64_t>(places[i + 3]) << (3 * bits);
    const size_t bit = i * static_cast<size_t>(bits);
    words[bit / 64] |= four << (bit % 64);
  }
}

}  // namespace

PackedCells::PackedCells(std::span<const uint16_t> cells)
    : size_(cells.size()), palette_(valuesIn(cells)) {
  bits_ = bitsFor(palette_.size());
  if (bits_ == 0) return;
  const auto bits = static_cast<size_t>(bits_);
  words_.resize((size_ * bits + 63) / 64);
  const auto place = [&](uint16_t cell) {
    return static_cast<uint64_t>(
        std::lower_bound(palette_.begin(), palette_.end(), cell) - palette_.begin());
  };
  size_t i = 0;
  if (palette_.size() <= kFew) {
    uint16_t places[kTogether];
    const uint64_t everywhere = ~uint64_t{0} / ((uint64_t{1} << bits_) - 1);
    for (; i + kTogether <= size_; i += kTogether) {
      uint64_t* words = words_.data() + i * bits / 64;
      if (allAlike(cells.data() + i, kTogether)) {
        std::fill_n(words, bits, place(cells[i]) * everywhere);
        continue;
      }
      placesOf(cells.data() + i, palette_, places);
      packGroup(places, bits_, words);
    }
  }
  for (uint64_t last = 0; i < size_; ++i) {
    if (i == 0 || cells[i] != cells[i - 1] || last == 0) last = place(cells[i]);
    words_[i * bits / 64] |= last << (i * bits % 64);
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
