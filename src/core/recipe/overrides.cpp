#include "recipe/overrides.h"

#include <fmt/format.h>

#include <charconv>
#include <optional>
#include <utility>

namespace acre {
namespace {

/// Splits a JSON pointer; nothing when it does not start with '/'.
std::optional<std::vector<std::string>> pointerParts(std::string_view pointer) {
  if (pointer.empty() || pointer.front() != '/') return {};
  std::vector<std::string> parts;
  std::string part;
  for (size_t i = 1; i <= pointer.size(); ++i) {
    if (i == pointer.size() || pointer[i] == '/') {
      parts.push_back(std::exchange(part, {}));
    } else if (pointer[i] == '~' && i + 1 < pointer.size()) {
      part += pointer[++i] == '1' ? '/' : '~';
    } else {
      part += pointer[i];
    }
  }
  return parts;
}

/// The list member that `part` names: an index, or "id:NAME".
Json* listMember(Json& list, const std::string& part) {
  if (part.starts_with("id:")) {
    for (Json& member : list)
      if (member.is_object() && member.value("id", Json()) == part.substr(3)) return &member;
    return nullptr;
  }
  if (part.size() > 1 && part.starts_with('0')) return nullptr;  // Another name of the same place.
  size_t index = 0;
  const char* end = part.data() + part.size();
  if (std::from_chars(part.data(), end, index).ptr != end || index >= list.size()) return nullptr;
  return &list[index];
}

}  // namespace

Status applyOverride(Json& document, const Override& change) {
  const auto refuse = [&](std::string what, std::string accepted) {
    return Error{
        Error::Code::InvalidInput, std::move(what), "--set " + change.pointer, std::move(accepted)};
  };
  const auto parts = pointerParts(change.pointer);
  if (!parts) return refuse("not a JSON pointer", "/frame/sea, /heights/layers/id:NAME/width, …");
  Json* node = &document;
  for (size_t i = 0; i < parts->size(); ++i) {
    const std::string& part = (*parts)[i];
    Json* next = nullptr;
    if (node->is_array())
      next = listMember(*node, part);
    else if (node->is_object() && node->contains(part))
      next = &(*node)[part];
    else if (node->is_object() && i + 1 == parts->size())
      next = &((*node)[part] = nullptr);
    if (!next)
      return refuse(fmt::format("there is no \"{:.80}\"", part),
          node->is_array() ? fmt::format("an index below {} or id:NAME", node->size())
                           : "a key of the recipe");
    node = next;
  }
  const auto value = parseJson(change.value);
  const char* const end = change.value.data() + change.value.size();
  double number = 0;
  const auto read = std::from_chars(change.value.data(), end, number);
  if (read.ptr == end && read.ec == std::errc::result_out_of_range)
    return refuse(fmt::format("the number {:.40} is too large or too small", change.value),
        "a finite number");
  if (value)
    *node = *value;
  else
    *node = change.value;
  // A seed typed as a number is meant as its text.
  if (change.pointer == "/seed" && !node->is_string()) *node = change.value;
  return done();
}

}  // namespace acre
