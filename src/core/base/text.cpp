#include "base/text.h"

#include <fmt/format.h>

#include <array>
#include <cstdint>

namespace acre {
namespace {

/// Bytes of the character that begins here, and its number; 0 when there is none.
struct Character {
  size_t bytes = 0;
  uint32_t code = 0;
};

Character characterAt(std::string_view text, size_t at) {
  const auto byte = [&](size_t i) { return static_cast<uint8_t>(text[i]); };
  const uint8_t first = byte(at);
  if (first < 0x80) return {1, first};
  const size_t bytes = first >= 0xF0 ? 4 : first >= 0xE0 ? 3 : 2;
  if (first < 0xC2 || first > 0xF4 || at + bytes > text.size()) return {};
  uint32_t code = first & (0x7Fu >> bytes);
  for (size_t i = 1; i < bytes; ++i) {
    if ((byte(at + i) & 0xC0u) != 0x80) return {};
    code = code << 6 | (byte(at + i) & 0x3Fu);
  }
  constexpr std::array<uint32_t, 5> kLeast = {0, 0, 0x80, 0x800, 0x10000};
  if (code < kLeast[bytes] || code > 0x10FFFF || (code >= 0xD800 && code < 0xE000)) return {};
  return {bytes, code};
}

}  // namespace

bool isUtf8(std::string_view text) {
  for (size_t at = 0; at < text.size();) {
    const Character c = characterAt(text, at);
    if (c.bytes == 0) return false;
    at += c.bytes;
  }
  return true;
}

std::string oneLine(std::string_view text, size_t most) {
  std::string out;
  for (size_t at = 0; at < text.size();) {
    const Character c = characterAt(text, at);
    const bool control = c.bytes && (c.code < 0x20 || (c.code >= 0x7F && c.code < 0xA0) ||
                                        c.code == 0x2028 || c.code == 0x2029);
    const std::string_view next = control        ? " "
                                  : c.bytes == 0 ? "\xEF\xBF\xBD"
                                                 : text.substr(at, c.bytes);
    if (out.size() + next.size() > most) return out + "\xE2\x80\xA6";
    out += next;
    at += c.bytes ? c.bytes : 1;
  }
  return out;
}

std::string percentText(double share) {
  return fmt::format("{:.1f} %", share * 100);
}

}  // namespace acre
