/// World seeds: what the user types, and the 64-bit number that it stands for.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace acre {

/// Removes white space at both ends; the form in which a seed's text is kept.
std::string trimmedSeed(std::string_view text);

/// The number that a seed stands for. A canonical decimal from -2^63 to 2^64-1 (no plus sign, no
/// leading zeros) is itself modulo 2^64; any other text is hashed (XXH3-64 of its trimmed UTF-8).
/// Typing the printed number again therefore gives the same world.
uint64_t seedNumber(std::string_view text);

/// The seed one step on (+1) or back (-1): of the number itself, or of the digits that end a text.
/// A text without digits goes on with "-1". Nothing when there is no such neighbour (-2^63 and
/// 2^64-1 end the numbers, 0 ends the digits of a text, a text without digits has no predecessor).
std::optional<std::string> neighbourSeed(std::string_view text, int direction);

/// A readable seed made from 64 random bits: one of kRolledWords words and a number below one
/// million.
std::string rolledSeed(uint64_t randomBits);
inline constexpr int kRolledWords = 64;

}  // namespace acre
