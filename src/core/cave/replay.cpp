#include "cave/replay.h"

#include "cave/open_spaces.h"

namespace acre {

Replay::Replay(const BitGrid& first)
    : words_((first.width() + 63) / 64), now_(first), last_(first) {
  figures_.push_back(measure(first));
}

auto Replay::measure(const BitGrid& plane) -> Figures {
  Figures out;
  const auto cells = static_cast<double>(plane.width()) * static_cast<double>(plane.length());
  out.open = 1 - static_cast<double>(plane.count()) / cells;
  out.pieces = static_cast<uint32_t>(OpenSpaces::of(plane).spaces.size());
  out.outline = outlineOf(plane);
  return out;
}

void Replay::record(const BitGrid& next) {
  std::vector<Change>& changes = changes_.emplace_back();
  const int32_t rest = next.width() % 64;
  for (int32_t z = 0; z < next.length(); ++z)
    for (int32_t word = 0; word < words_; ++word) {
      uint64_t bits = next.bits(word * 64, z) ^ last_.bits(word * 64, z);
      if (word + 1 == words_ && rest) bits &= (uint64_t{1} << rest) - 1;
      if (bits) changes.push_back({static_cast<uint32_t>(z * words_ + word), bits});
    }
  changes.shrink_to_fit();
  const bool follows = position_ + 1 == changes_.size();
  last_ = next;
  if (follows) {
    now_ = next;
    ++position_;
  }
  figures_.push_back(measure(next));
}

void Replay::apply(const std::vector<Change>& changes) {
  for (const Change& change : changes) {
    const auto z = static_cast<int32_t>(change.place) / words_;
    const auto word = static_cast<int32_t>(change.place) % words_;
    now_.setWord(word, z, 0, now_.bits(word * 64, z) ^ change.bits);
  }
}

const BitGrid& Replay::at(size_t step) {
  while (position_ < step) apply(changes_[position_++]);
  while (position_ > step) apply(changes_[--position_]);
  return now_;
}

int Replay::neighbours(int32_t x, int32_t z) const {
  int count = 0;
  for (int32_t dz = -1; dz <= 1; ++dz)
    for (int32_t dx = -1; dx <= 1; ++dx) {
      const int32_t i = x + dx, k = z + dz;
      if ((dx == 0 && dz == 0) || i < 0 || k < 0 || i >= now_.width() || k >= now_.length())
        continue;
      count += now_.at(i, k);
    }
  return count;
}

uint64_t Replay::bytes() const {
  uint64_t sum =
      sizeof(Replay) + now_.bytes() + last_.bytes() + figures_.capacity() * sizeof(Figures);
  for (const auto& changes : changes_) sum += sizeof(changes) + changes.capacity() * sizeof(Change);
  return sum;
}

}  // namespace acre
