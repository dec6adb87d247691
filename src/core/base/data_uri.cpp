#include "base/data_uri.h"

#include <fmt/format.h>
#include <nettle/base64.h>

#include <algorithm>

namespace acre {
namespace {

constexpr std::string_view kBase64 = ";base64,";

}  // namespace

std::string dataUri(std::string_view type, std::string_view bytes) {
  std::string out = fmt::format("{}{}{}", kDataScheme, type, kBase64);
  const size_t head = out.size();
  out.resize(head + BASE64_ENCODE_RAW_LENGTH(bytes.size()));
  base64_encode_raw(
      out.data() + head, bytes.size(), reinterpret_cast<const uint8_t*>(bytes.data()));
  return out;
}

Result<std::string> bytesOfDataUri(std::string_view text) {
  const auto refuse = [&](const char* what) {
    return invalidInput(what, shownFile(text), "data:image/png;base64, and a PNG in base64");
  };
  const size_t comma = text.find(',');
  if (!isDataUri(text) || comma == text.npos || !text.substr(0, comma + 1).ends_with(kBase64))
    return refuse("no data URI of base64");
  const std::string_view coded = text.substr(comma + 1);
  base64_decode_ctx context;
  base64_decode_init(&context);
  std::string out(BASE64_DECODE_LENGTH(coded.size()), '\0');
  size_t size = out.size();
  if (!base64_decode_update(
          &context, &size, reinterpret_cast<uint8_t*>(out.data()), coded.size(), coded.data()) ||
      !base64_decode_final(&context))
    return refuse("broken base64");
  out.resize(size);
  return out;
}

std::string shownFile(std::string_view text) {
  if (!isDataUri(text)) return std::string(text);
  constexpr size_t kMostType = 40;
  const std::string_view rest = text.substr(kDataScheme.size());
  return fmt::format("data:{}… of {} bytes",
      rest.substr(0, std::min(rest.find_first_of(";,"), kMostType)), text.size());
}

}  // namespace acre
