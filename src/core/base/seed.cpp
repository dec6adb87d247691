#include "base/seed.h"

#include <array>
#include <charconv>
#include <limits>

#include "base/hash.h"

namespace acre {
namespace {

constexpr std::string_view kSpace = " \t\r\n\v\f";

/// A canonical decimal split into sign and magnitude, or nothing.
struct Decimal {
  bool negative;
  uint64_t magnitude;
};

std::optional<Decimal> canonicalDecimal(std::string_view text) {
  const bool negative = !text.empty() && text.front() == '-';
  const std::string_view digits = negative ? text.substr(1) : text;
  if (digits.empty() || (digits.front() == '0' && (digits.size() > 1 || negative))) return {};
  uint64_t magnitude = 0;
  const auto [end, fault] =
      std::from_chars(digits.data(), digits.data() + digits.size(), magnitude);
  if (fault != std::errc() || end != digits.data() + digits.size()) return {};
  if (negative && magnitude > uint64_t{1} << 63) return {};
  return Decimal{negative, magnitude};
}

/// Adds one to a run of decimal digits, keeping leading zeros.
std::string increased(std::string digits) {
  for (size_t i = digits.size(); i-- > 0;) {
    if (digits[i] != '9') return ++digits[i], digits;
    digits[i] = '0';
  }
  return "1" + digits;
}

/// Takes one from a run of decimal digits, keeping its length; nothing below zero.
std::optional<std::string> decreased(std::string digits) {
  for (size_t i = digits.size(); i-- > 0;) {
    if (digits[i] != '0') return --digits[i], digits;
    digits[i] = '9';
  }
  return {};
}

constexpr std::array<std::string_view, kRolledWords> kWords = {"alder", "aspen", "barley", "beech",
    "birch", "bracken", "bramble", "briar", "broom", "burnet", "campion", "catkin", "cedar",
    "chalk", "clover", "comfrey", "cotton", "curlew", "dogwood", "dunlin", "elder", "fennel",
    "fern", "finch", "flax", "gorse", "grebe", "hazel", "heather", "heron", "hornbeam", "juniper",
    "kestrel", "larch", "lapwing", "lichen", "linnet", "madder", "mallow", "maple", "marram",
    "meadow", "merlin", "moss", "nettle", "oak", "osier", "otter", "peat", "pine", "plover",
    "poplar", "reed", "rowan", "rush", "sedge", "sorrel", "spruce", "tansy", "teasel", "thistle",
    "thrift", "willow", "yarrow"};

}  // namespace

std::string trimmedSeed(std::string_view text) {
  const size_t first = text.find_first_not_of(kSpace);
  if (first == std::string_view::npos) return {};
  return std::string(text.substr(first, text.find_last_not_of(kSpace) - first + 1));
}

uint64_t seedNumber(std::string_view text) {
  const std::string trimmed = trimmedSeed(text);
  if (const auto decimal = canonicalDecimal(trimmed))
    return decimal->negative ? 0 - decimal->magnitude : decimal->magnitude;
  return hashText(trimmed);
}

std::optional<std::string> neighbourSeed(std::string_view text, int direction) {
  const std::string seed = trimmedSeed(text);
  const bool up = direction > 0;
  if (const auto decimal = canonicalDecimal(seed)) {
    const uint64_t m = decimal->magnitude;
    if (decimal->negative) {
      if (!up && m == uint64_t{1} << 63) return {};
      if (up && m == 1) return "0";
      return "-" + std::to_string(up ? m - 1 : m + 1);
    }
    if (up && m == std::numeric_limits<uint64_t>::max()) return {};
    if (!up && m == 0) return "-1";
    return std::to_string(up ? m + 1 : m - 1);
  }
  const size_t lastOther = seed.find_last_not_of("0123456789");
  const size_t digitsAt = lastOther == std::string::npos ? 0 : lastOther + 1;
  const std::string head = seed.substr(0, digitsAt);
  const std::string digits = seed.substr(digitsAt);
  if (digits.empty()) return up ? std::optional(seed + "-1") : std::nullopt;
  if (up) return head + increased(digits);
  const auto lower = decreased(digits);
  return lower ? std::optional(head + *lower) : std::nullopt;
}

std::string rolledSeed(uint64_t randomBits) {
  const std::string_view word = kWords[randomBits % kRolledWords];
  return std::string(word) + "-" + std::to_string((randomBits / kRolledWords) % 1'000'000);
}

}  // namespace acre
