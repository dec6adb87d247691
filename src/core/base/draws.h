/// Numbers drawn from a hash.
#pragma once

#include <cstdint>

namespace acre {

/// [0, 1), a multiple of 2^-24.
constexpr float unitDraw(uint64_t hash) {
  return static_cast<float>(hash >> 40) * 0x1p-24f;
}

/// [-1, 1), a multiple of 2^-23.
constexpr float signedUnitDraw(uint64_t hash) {
  return unitDraw(hash) * 2.0f - 1.0f;
}

/// 0 ... count - 1, from the upper 32 bits. REQUIRES: 1 <= count < 2^32.
constexpr int64_t pickDraw(uint64_t hash, int64_t count) {
  return static_cast<int64_t>((hash >> 32) * static_cast<uint64_t>(count) >> 32);
}

}  // namespace acre
