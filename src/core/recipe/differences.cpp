#include "recipe/differences.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "recipe/json.h"

namespace acre {
namespace {

using Ordered = nlohmann::ordered_json;

std::string shortly(const Ordered& value) {
  if (value.is_object()) return "{...}";
  if (!value.is_array()) return value.dump();
  // Points and ranges are told; lists of members are not.
  const std::string all = value.dump();
  constexpr size_t kMost = 60;
  return all.size() <= kMost && all.find('{') == std::string::npos ? all : "[...]";
}

bool haveIds(const Ordered& list) {
  return !list.empty() && std::all_of(list.begin(), list.end(), [](const Ordered& member) {
    return member.is_object() && member.contains("id") && member["id"].is_string();
  });
}

/// A key of an object as a part of a pointer. [RFC 6901]
std::string escaped(const std::string& key) {
  std::string out;
  for (const char c : key) out += c == '~' ? "~0" : c == '/' ? "~1" : std::string(1, c);
  return out;
}

class Comparison {
 public:
  void compare(const Ordered& a, const Ordered& b, const std::string& at) {
    if (a == b) return;
    if (a.is_object() && b.is_object()) return objects(a, b, at);
    if (a.is_array() && b.is_array() && haveIds(a) && haveIds(b)) return members(a, b, at);
    out.push_back({at, shortly(a), shortly(b)});
  }

  std::vector<RecipeDifference> out;

 private:
  void objects(const Ordered& a, const Ordered& b, const std::string& at) {
    for (const auto& [key, value] : b.items()) {
      const std::string here = at + "/" + escaped(key);
      if (a.contains(key))
        compare(a[key], value, here);
      else
        out.push_back({here, {}, shortly(value)});
    }
    for (const auto& [key, value] : a.items())
      if (!b.contains(key)) out.push_back({at + "/" + escaped(key), shortly(value), {}});
  }

  void members(const Ordered& a, const Ordered& b, const std::string& at) {
    const auto find = [](const Ordered& list, const Ordered& id) {
      return std::find_if(
          list.begin(), list.end(), [&](const Ordered& member) { return member["id"] == id; });
    };
    for (const Ordered& member : b) {
      const std::string here = at + "/id:" + member["id"].get<std::string>();
      if (const auto was = find(a, member["id"]); was != a.end())
        compare(*was, member, here);
      else
        out.push_back({here, {}, shortly(member)});
    }
    for (const Ordered& member : a)
      if (find(b, member["id"]) == b.end())
        out.push_back({at + "/id:" + member["id"].get<std::string>(), shortly(member), {}});
  }
};

}  // namespace

std::vector<RecipeDifference> differencesOf(const Recipe& from, const Recipe& to) {
  Comparison comparison;
  comparison.compare(Ordered::parse(recipeToJson(from)), Ordered::parse(recipeToJson(to)), {});
  return comparison.out;
}

}  // namespace acre
