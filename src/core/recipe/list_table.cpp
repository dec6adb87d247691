#include "recipe/list_table.h"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "recipe/json.h"
#include "recipe/json_parts.h"

namespace acre {
namespace {

using Row = std::vector<std::string>;

/// The list of objects at a pointer; nullptr when there is none.
Json* listAt(Json& document, std::string_view pointer) {
  const Json::json_pointer place{std::string(pointer)};
  if (!document.contains(place)) return nullptr;
  Json& list = document.at(place);
  const bool fits = list.is_array() && std::all_of(list.begin(), list.end(),
                                           [](const Json& member) { return member.is_object(); });
  return fits ? &list : nullptr;
}

Error noList(std::string_view pointer) {
  return {Error::Code::InvalidInput, "there is no list of objects", std::string(pointer),
      "the pointer of one, as /strata/materials"};
}

/// Members that lists are copied for, though the file leaves them out while they are as usual.
struct Told {
  std::string_view pointer, key;
  double usual;
};
constexpr Told kTold[] = {{"/biomes/list", "weight", 1}};

std::vector<std::string> keysOf(const Json& list) {
  std::vector<std::string> keys;
  for (const Json& member : list)
    for (const auto& [key, value] : member.items())
      if (std::find(keys.begin(), keys.end(), key) == keys.end()) keys.push_back(key);
  return keys;
}

std::string quoted(const std::string& cell) {
  if (cell.find_first_of("\t\n\r\"") == std::string::npos) return cell;
  std::string out = "\"";
  for (const char c : cell) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + '"';
}

/// Lines and cells; a quote that is never closed ends with the text.
std::vector<Row> rowsOf(std::string_view text) {
  std::vector<Row> rows = {{std::string()}};
  bool inside = false;
  for (size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    std::string& cell = rows.back().back();
    if (inside) {
      if (c != '"')
        cell += c;
      else if (i + 1 < text.size() && text[i + 1] == '"')
        cell += text[++i];
      else
        inside = false;
    } else if (c == '"' && cell.empty()) {
      inside = true;
    } else if (c == '\t') {
      rows.back().emplace_back();
    } else if (c == '\n') {
      rows.push_back({std::string()});
    } else if (c != '\r') {
      cell += c;
    }
  }
  // An empty line at the end is the end of the one before.
  std::erase_if(rows, [](const Row& row) { return row.size() == 1 && row.front().empty(); });
  return rows;
}

enum class Holds { Unknown, Texts, Numbers };

/// What a column has held so far.
Holds heldBy(const Json& list, const std::string& key) {
  Holds held = Holds::Unknown;
  for (const Json& member : list) {
    if (!member.contains(key)) continue;
    if (member[key].is_string()) return Holds::Texts;
    if (member[key].is_number()) held = Holds::Numbers;
  }
  return held;
}

Json valueOf(std::string cell, Holds held) {
  if (held == Holds::Texts && cell != "null") return cell;
  if (held == Holds::Numbers && std::count(cell.begin(), cell.end(), ',') == 1 &&
      cell.find_first_not_of("-0123456789,") == std::string::npos)
    std::replace(cell.begin(), cell.end(), ',', '.');
  const auto value = parseJson(cell);
  return value ? *value : Json(cell);
}

}  // namespace

Result<std::string> listTable(const Recipe& recipe, std::string_view pointer) {
  Json document = recipeJson(recipe);
  Json* list = listAt(document, pointer);
  if (!list) return noList(pointer);
  for (const Told& told : kTold)
    for (Json& member : *list)
      if (told.pointer == pointer && !member.contains(told.key))
        member[std::string(told.key)] = told.usual;
  const std::vector<std::string> keys = keysOf(*list);
  std::string out;
  for (const std::string& key : keys) out += (out.empty() ? "" : "\t") + key;
  out += '\n';
  for (const Json& member : *list) {
    for (size_t k = 0; k < keys.size(); ++k) {
      if (k > 0) out += '\t';
      if (!member.contains(keys[k])) continue;
      const Json& value = member[keys[k]];
      out += quoted(value.is_string() ? value.get<std::string>() : value.dump());
    }
    out += '\n';
  }
  return out;
}

Result<Recipe> withListTable(
    const Recipe& recipe, std::string_view pointer, std::string_view text) {
  Json document = recipeJson(recipe);
  Json* list = listAt(document, pointer);
  if (!list) return noList(pointer);
  const std::vector<Row> rows = rowsOf(text);
  const auto refuse = [&](size_t line, std::string what, std::string accepted) {
    return Error{Error::Code::InvalidInput, std::move(what), fmt::format("line {}", line + 1),
        std::move(accepted)};
  };
  if (rows.empty() || rows.front().front().empty())
    return refuse(0, "there is no table", "a first line of keys, with tabs between them");
  const Row& keys = rows.front();
  for (size_t k = 0; k < keys.size(); ++k)
    if (keys[k].empty() || std::find(keys.begin(), keys.begin() + static_cast<ptrdiff_t>(k),
                               keys[k]) != keys.begin() + static_cast<ptrdiff_t>(k))
      return refuse(0, fmt::format("column {} has no key of its own", k + 1),
          "a key of the list's members once each");
  Json next = Json::array();
  for (size_t line = 1; line < rows.size(); ++line) {
    const Row& row = rows[line];
    if (row.size() > keys.size())
      return refuse(line, fmt::format("{} cells", row.size()),
          fmt::format("at most {}, as many as there are keys", keys.size()));
    Json member = Json::object();
    for (size_t k = 0; k < row.size(); ++k)
      if (!row[k].empty()) member[keys[k]] = valueOf(row[k], heldBy(*list, keys[k]));
    next.push_back(std::move(member));
  }
  *list = std::move(next);
  document.erase("edits");
  auto made = recipeFromJson(document.dump());
  if (!made) return made.error();
  made->folder = recipe.folder;
  made->edits = recipe.edits;
  return made;
}

}  // namespace acre
