#include "base/hash.h"

#include <fmt/format.h>
#include <xxhash.h>

#include <bit>
#include <new>

namespace acre {

static_assert(std::endian::native == std::endian::little, "canonical bytes are little-endian");

uint64_t hashText(std::string_view text) {
  return XXH3_64bits(text.data(), text.size());
}

std::string Digest::hex() const {
  return fmt::format("{:016x}{:016x}", high, low);
}

DigestWriter::DigestWriter() : state_(XXH3_createState()) {
  if (!state_) throw std::bad_alloc();
  XXH3_128bits_reset(static_cast<XXH3_state_t*>(state_));
}

DigestWriter::~DigestWriter() {
  XXH3_freeState(static_cast<XXH3_state_t*>(state_));
}

DigestWriter& DigestWriter::bytes(const void* data, size_t size) {
  XXH3_128bits_update(static_cast<XXH3_state_t*>(state_), data, size);
  return *this;
}

DigestWriter& DigestWriter::u8(uint8_t v) {
  return bytes(&v, sizeof v);
}
DigestWriter& DigestWriter::u32(uint32_t v) {
  return bytes(&v, sizeof v);
}
DigestWriter& DigestWriter::u64(uint64_t v) {
  return bytes(&v, sizeof v);
}
DigestWriter& DigestWriter::f32(float v) {
  v += 0.0f;  // −0 becomes +0
  return bytes(&v, sizeof v);
}
DigestWriter& DigestWriter::f64(double v) {
  v += 0.0;
  return bytes(&v, sizeof v);
}
DigestWriter& DigestWriter::text(std::string_view v) {
  u64(v.size());
  return bytes(v.data(), v.size());
}

Digest DigestWriter::finish() const {
  const XXH128_hash_t h = XXH3_128bits_digest(static_cast<const XXH3_state_t*>(state_));
  return {h.high64, h.low64};
}

}  // namespace acre
