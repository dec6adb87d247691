/// The hashes that all randomness and all fingerprints come from. docs/maths.md states them.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>

namespace acre {

/// Bijective 64-bit mixer. Source: Steele, Lea, Flood, "Fast splittable pseudorandom number
/// generators", OOPSLA 2014, with the constants of Stafford's variant 13.
constexpr uint64_t mix64(uint64_t x) {
  x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9u;
  x = (x ^ (x >> 27)) * 0x94D049BB133111EBu;
  return x ^ (x >> 31);
}

/// combine() in two steps, where many keys meet one value.
constexpr uint64_t mixedValue(uint64_t value) {
  return mix64(value + 0x9E3779B97F4A7C15u);
}
constexpr uint64_t combineMixed(uint64_t key, uint64_t mixed) {
  return mix64(key ^ mixed);
}
/// Derives an independent 64-bit key from `key` and `value`; order matters.
constexpr uint64_t combine(uint64_t key, uint64_t value) {
  return combineMixed(key, mixedValue(value));
}

/// The 32 bits of one lattice node on one axis.
constexpr uint32_t axisHash(uint64_t axisSeed, int64_t node) {
  return static_cast<uint32_t>(mix64(static_cast<uint64_t>(node) ^ axisSeed) >> 32);
}

/// Joins the axis hashes of a 2-D lattice node; 32-bit multiplies only.
constexpr uint32_t nodeHash(uint32_t hx, uint32_t hz) {
  uint32_t h = hx * 0x85EBCA6Bu + hz;
  h = (h ^ (h >> 15)) * 0xC2B2AE35u;
  return h ^ (h >> 13);
}

/// The same in three dimensions.
constexpr uint32_t nodeHash(uint32_t hx, uint32_t hy, uint32_t hz) {
  return nodeHash(nodeHash(hx, hy), hz);
}

/// XXH3, 64 bits, of the bytes of `text`.
uint64_t hashText(std::string_view text);

/// A 128-bit XXH3 fingerprint; compares and prints as 32 hexadecimal digits, high half first.
struct Digest {
  uint64_t high = 0;
  uint64_t low = 0;
  auto operator<=>(const Digest&) const = default;
  std::string hex() const;
};

/// Collects canonical bytes and hashes them with XXH3-128: integers little-endian, floating point
/// as bits with -0 written as +0, text preceded by its length.
class DigestWriter {
 public:
  DigestWriter();
  ~DigestWriter();
  DigestWriter(const DigestWriter&) = delete;
  DigestWriter& operator=(const DigestWriter&) = delete;

  DigestWriter& u8(uint8_t v);
  DigestWriter& u32(uint32_t v);
  DigestWriter& u64(uint64_t v);
  DigestWriter& i64(int64_t v) { return u64(static_cast<uint64_t>(v)); }
  DigestWriter& f32(float v);
  DigestWriter& f64(double v);
  DigestWriter& text(std::string_view v);
  DigestWriter& digest(const Digest& v) { return u64(v.high).u64(v.low); }
  Digest finish() const;

 private:
  DigestWriter& bytes(const void* data, size_t size);
  void* state_;
};

}  // namespace acre
