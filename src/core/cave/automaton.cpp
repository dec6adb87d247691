#include "cave/automaton.h"

#include <algorithm>
#include <bit>

namespace acre {

// ---- grids -------------------------------------------------------------------------------------

BitGrid::BitGrid(int32_t width, int32_t length, int32_t levels)
    : width_(width),
      length_(length),
      levels_(levels),
      stride_((width + 63) / 64 + 2),
      words_(static_cast<size_t>(stride_) * static_cast<size_t>(length + 2) *
             static_cast<size_t>(levels + 2)) {}

void BitGrid::set(int32_t x, int32_t z, int32_t y, bool solid) {
  uint64_t& word = row(z, y)[x / 64];
  const uint64_t bit = uint64_t{1} << (x % 64);
  word = solid ? word | bit : word & ~bit;
}

uint64_t BitGrid::count() const {
  uint64_t out = 0;
  for (int32_t y = 0; y < levels_; ++y)
    for (int32_t z = 0; z < length_; ++z) {
      const uint64_t* cells = row(z, y);
      for (ptrdiff_t w = 0; w < words(); ++w)
        out += static_cast<uint64_t>(
            std::popcount(w + 1 == words() ? cells[w] & lastMask() : cells[w]));
    }
  return out;
}

bool BitGrid::operator==(const BitGrid& other) const {
  if (width_ != other.width_ || length_ != other.length_ || levels_ != other.levels_) return false;
  for (int32_t y = 0; y < levels_; ++y)
    for (int32_t z = 0; z < length_; ++z) {
      const uint64_t *a = row(z, y), *b = other.row(z, y);
      if (!std::equal(a, a + words() - 1, b)) return false;
      if ((a[words() - 1] ^ b[words() - 1]) & lastMask()) return false;
    }
  return true;
}

// ---- steps -------------------------------------------------------------------------------------

namespace {

/// The sum of three bits: its lower and its upper one.
struct Two {
  uint64_t low, high;
};
inline Two add(uint64_t a, uint64_t b, uint64_t c) {
  const uint64_t half = a ^ b;
  return {half ^ c, (a & b) | (half & c)};
}

/// where the bit is set a, else b
inline uint64_t choose(uint64_t bit, uint64_t a, uint64_t b) {
  return b ^ (bit & (a ^ b));
}

/// The entry of a table of 2^kBits words that the slices name, cell by cell.
template <int kBits>
inline uint64_t entry(const uint64_t* table, const uint64_t* slices) {
  if constexpr (kBits == 0) {
    return table[0];
  } else {
    return choose(slices[kBits - 1], entry<kBits - 1>(table + (1 << (kBits - 1)), slices),
        entry<kBits - 1>(table, slices));
  }
}

/// Cells of a row and those to their west and east: how many of the three are solid.
inline Two three(const uint64_t* row, ptrdiff_t w) {
  return add(row[w] << 1 | row[w - 1] >> 63, row[w], row[w] >> 1 | row[w + 1] << 63);
}

}  // namespace

Automaton::Automaton(const AutomatonRule& rule, GridEdge edge, int32_t levels)
    : rule_(rule), edge_(edge), volume_(levels > 1) {
  for (int n = 0; n < 32; ++n) {
    birth_[n] = rule.birth >> n & 1 ? ~uint64_t{0} : 0;
    survival_[n] = rule.survival >> n & 1 ? ~uint64_t{0} : 0;
  }
}

void Automaton::frame(BitGrid& grid) const {
  const uint64_t beyond = edge_ == GridEdge::Filled ? ~uint64_t{0} : 0;
  const uint64_t last = grid.lastMask();
  for (int32_t y = -1; y <= grid.levels(); ++y)
    for (int32_t z = -1; z <= grid.length(); ++z) {
      uint64_t* cells = grid.row(z, y);
      if (y < 0 || y == grid.levels() || z < 0 || z == grid.length()) {
        std::fill(cells - 1, cells + grid.words() + 1, beyond);
        continue;
      }
      cells[-1] = cells[grid.words()] = beyond;
      cells[grid.words() - 1] = (cells[grid.words() - 1] & last) | (beyond & ~last);
    }
}

void Automaton::stepRow(const BitGrid& from, BitGrid& to, int32_t z, int32_t y) const {
  const ptrdiff_t words = from.words();
  const uint64_t* middle = from.row(z, y);
  uint64_t* out = to.row(z, y);
  if (!volume_) {
    const uint64_t *north = from.row(z - 1, y), *south = from.row(z + 1, y);
    for (ptrdiff_t w = 0; w < words; ++w) {
      const Two a = three(north, w), c = three(south, w);
      const Two b =
          add(middle[w] << 1 | middle[w - 1] >> 63, middle[w] >> 1 | middle[w + 1] << 63, 0);
      const Two ones = add(a.low, b.low, c.low);
      const Two twos = add(a.high, b.high, c.high);
      const Two more = add(twos.low, ones.high, 0);
      const uint64_t slices[4] = {ones.low, more.low, twos.high ^ more.high, twos.high & more.high};
      out[w] = choose(middle[w], entry<4>(survival_, slices), entry<4>(birth_, slices));
    }
    return;
  }
  for (ptrdiff_t w = 0; w < words; ++w) {
    uint64_t slices[5] = {};
    const auto count = [&](Two more) {
      // The lower bit goes through all slices, the upper one from the second on.
      uint64_t carry = slices[0] & more.low;
      slices[0] ^= more.low;
      const Two second = add(slices[1], more.high, carry);
      slices[1] = second.low;
      carry = second.high;
      for (int k = 2; k < 5; ++k) {
        const uint64_t next = slices[k] & carry;
        slices[k] ^= carry;
        carry = next;
      }
    };
    for (int dy = -1; dy <= 1; ++dy)
      for (int dz = -1; dz <= 1; ++dz) {
        const uint64_t* row = from.row(z + dz, y + dy);
        count(dy == 0 && dz == 0
                  ? add(row[w] << 1 | row[w - 1] >> 63, row[w] >> 1 | row[w + 1] << 63, 0)
                  : three(row, w));
      }
    out[w] = choose(middle[w], entry<5>(survival_, slices), entry<5>(birth_, slices));
  }
}

void Automaton::step(BitGrid& from, BitGrid& to) const {
  frame(from);
  for (int32_t y = 0; y < from.levels(); ++y)
    for (int32_t z = 0; z < from.length(); ++z) {
      stepRow(from, to, z, y);
      if (edge_ != GridEdge::Left) continue;
      // What is at the edge stays as it was.
      const uint64_t* before = from.row(z, y);
      uint64_t* after = to.row(z, y);
      const bool outer =
          z == 0 || z + 1 == from.length() || (volume_ && (y == 0 || y + 1 == from.levels()));
      if (outer) {
        std::copy_n(before, from.words(), after);
        continue;
      }
      after[0] = choose(1, before[0], after[0]);
      const ptrdiff_t last = from.words() - 1;
      const uint64_t bit = uint64_t{1} << ((from.width() - 1) % 64);
      after[last] = choose(bit, before[last], after[last]);
    }
}

bool Automaton::run(BitGrid& grid, int steps, const std::stop_token& stop) {
  BitGrid other(grid.width(), grid.length(), grid.levels());
  for (int n = 0; n < steps; ++n) {
    if (stop.stop_requested()) return false;
    step(grid, other);
    std::swap(grid, other);
  }
  return true;
}

}  // namespace acre
