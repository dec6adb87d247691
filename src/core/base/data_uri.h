/// Files that stand in a text themselves, as data URIs of base64 (RFC 2397, RFC 4648).
#pragma once

#include <string>
#include <string_view>

#include "base/result.h"

namespace acre {

inline constexpr std::string_view kDataScheme = "data:";
constexpr bool isDataUri(std::string_view text) {
  return text.starts_with(kDataScheme);
}
/// "data:TYPE;base64,…".
std::string dataUri(std::string_view type, std::string_view bytes);
/// The bytes. Refuses what is no data URI of base64.
Result<std::string> bytesOfDataUri(std::string_view text);
/// For messages: a name of a file as it is, of a data URI its type and length.
std::string shownFile(std::string_view text);

}  // namespace acre
