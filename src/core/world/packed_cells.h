/// Small whole numbers, one a cell, kept as a palette and bit-packed places in it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace acre {

/// Immutable once packed. A place takes 0, 1, 2, 4, 8 or 16 bits, whatever the palette needs; equal
/// cells give equal bytes, since the palette is sorted.
class PackedCells {
 public:
  PackedCells() = default;
  explicit PackedCells(std::span<const uint16_t> cells);
  /// So many cells of one value. REQUIRES: size > 0.
  PackedCells(size_t size, uint16_t value) : size_(size), palette_{value} {}

  size_t size() const { return size_; }
  bool empty() const { return size_ == 0; }
  /// The values that occur, ascending.
  std::span<const uint16_t> palette() const { return palette_; }
  int bitsPerCell() const { return bits_; }

  /// REQUIRES: i < size().
  uint16_t operator[](size_t i) const { return palette_[placeOf(i)]; }
  /// Place of a cell's value in the palette. REQUIRES: i < size().
  size_t placeOf(size_t i) const {
    if (bits_ == 0) return 0;
    const size_t bit = i * static_cast<size_t>(bits_);  // A power of two: no place is cut in two.
    return (words_[bit / 64] >> (bit % 64)) & ((uint64_t{1} << bits_) - 1);
  }

  std::vector<uint16_t> unpacked() const;

  /// What the heap holds for this, exactly.
  uint64_t heapBytes() const {
    return palette_.capacity() * sizeof(uint16_t) + words_.capacity() * sizeof(uint64_t);
  }
  /// Most that heapBytes() can be for so many cells.
  static uint64_t mostHeapBytes(size_t cells);

  bool operator==(const PackedCells&) const = default;

 private:
  size_t size_ = 0;
  int bits_ = 0;
  std::vector<uint16_t> palette_;
  std::vector<uint64_t> words_;
};

}  // namespace acre
