/// Text that comes from outside, made fit to be shown or written into a file; shares in words.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace acre {

/// Whether the bytes are UTF-8 throughout (Unicode 15, table 3-7): no surrogates, nothing overlong
/// or beyond U+10FFFF.
bool isUtf8(std::string_view text);

/// One line of UTF-8: control characters and line ends become spaces, each byte that belongs to no
/// character becomes U+FFFD. What is longer than `most` bytes is cut between two characters and
/// ends in "…".
std::string oneLine(std::string_view text, size_t most = static_cast<size_t>(-1));

/// A share as sentences tell it: "12.3 %".
std::string percentText(double share);

}  // namespace acre
