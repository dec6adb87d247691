#include "recipe/differences.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "recipe/json.h"

namespace acre {
namespace {

using Ordered = nlohmann::ordered_json;
using Pointer = Ordered::json_pointer;  ///< [RFC 6901]

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

class Comparison {
 public:
  void compare(const Ordered& a, const Ordered& b, const Pointer& at) {
    if (a == b) return;
    if (a.is_object() && b.is_object()) return objects(a, b, at);
    if (a.is_array() && b.is_array() && haveIds(a) && haveIds(b)) return members(a, b, at);
    out.push_back({at.to_string(), shortly(a), shortly(b)});
  }

  std::vector<RecipeDifference> out;

 private:
  void objects(const Ordered& a, const Ordered& b, const Pointer& at) {
    for (const auto& [key, value] : b.items()) {
      const Pointer here = at / key;
      if (a.contains(key))
        compare(a[key], value, here);
      else
        out.push_back({here.to_string(), {}, shortly(value)});
    }
    for (const auto& [key, value] : a.items())
      if (!b.contains(key)) out.push_back({(at / key).to_string(), shortly(value), {}});
  }

  void members(const Ordered& a, const Ordered& b, const Pointer& at) {
    const auto find = [](const Ordered& list, const Ordered& id) {
      return std::find_if(
          list.begin(), list.end(), [&](const Ordered& member) { return member["id"] == id; });
    };
    for (const Ordered& member : b) {
      const Pointer here = byId(at, member);
      if (const auto was = find(a, member["id"]); was != a.end())
        compare(*was, member, here);
      else
        out.push_back({here.to_string(), {}, shortly(member)});
    }
    for (const Ordered& member : a)
      if (find(b, member["id"]) == b.end())
        out.push_back({byId(at, member).to_string(), shortly(member), {}});
    // Those that both have may stand in another order, which is a setting too.
    const auto common = [&](const Ordered& list, const Ordered& other) {
      Ordered ids = Ordered::array();
      for (const Ordered& member : list)
        if (find(other, member["id"]) != other.end()) ids.push_back(member["id"]);
      return ids;
    };
    const Ordered was = common(a, b), is = common(b, a);
    if (was != is) out.push_back({at.to_string(), shortly(was), shortly(is)});
  }

  static Pointer byId(const Pointer& list, const Ordered& member) {
    return list / ("id:" + member["id"].get<std::string>());
  }
};

}  // namespace

std::vector<RecipeDifference> differencesOf(const Recipe& from, const Recipe& to) {
  Comparison comparison;
  comparison.compare(
      Ordered::parse(recipeToJson(from)), Ordered::parse(recipeToJson(to)), Pointer());
  return comparison.out;
}

}  // namespace acre
