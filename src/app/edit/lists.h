/// Members of the recipe's lists by their ids.
#pragma once

#include <algorithm>
#include <cstddef>
#include <string>
#include <vector>

namespace app {

/// The member with an id, or nullptr.
template <class List>
auto* withId(List& list, const std::string& id) {
  const auto found =
      std::find_if(list.begin(), list.end(), [&](const auto& m) { return m.id == id; });
  return found == list.end() ? nullptr : &*found;
}

/// The ids of all members, for a fresh one.
template <class T>
std::vector<std::string> idsOf(const std::vector<T>& list) {
  std::vector<std::string> ids;
  for (const T& member : list) ids.push_back(member.id);
  return ids;
}

/// Changes places with the member so many further on; nothing beyond the ends.
template <class List>
void moveIn(List& list, const std::string& id, int by) {
  const auto from =
      std::find_if(list.begin(), list.end(), [&](const auto& m) { return m.id == id; });
  if (from == list.end()) return;
  const auto to = from - list.begin() + by;
  if (to >= 0 && to < static_cast<ptrdiff_t>(list.size()))
    std::swap(*from, list[static_cast<size_t>(to)]);
}

}  // namespace app
