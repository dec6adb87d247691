/// Whole numbers that trees are grown in; for their own sources alone.
#pragma once

#include <cmath>
#include <cstdint>

namespace acre {

inline int64_t treeLength(double blocks) {
  return static_cast<int64_t>(std::floor(blocks * 64 + 0.5));
}
inline int64_t treeShare(double share) {
  return static_cast<int64_t>(std::floor(share * 1000 + 0.5));
}
inline int64_t treeFactor(double factor) {
  return static_cast<int64_t>(std::floor(factor * 4096 + 0.5));
}
/// The greatest whole number whose square is no more. n: 0 to 2^52.
int64_t rootOf(int64_t n);

}  // namespace acre
