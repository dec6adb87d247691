#include "output/recipe_pages.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <vector>

#include "recipe/describe.h"

namespace acre {
namespace {

using Json = nlohmann::ordered_json;

/// A row of a table.
struct Row {
  std::string key, what, accepted, usual;
  std::vector<std::string> kinds = {};  ///< That have the member; none: all.

  bool saysTheSame(const Row& other) const {
    return key == other.key && what == other.what && accepted == other.accepted;
  }
};

/// One of the kinds that an object may be of: words that share all further members.
struct Kind {
  Json words = Json::array();
  Json properties = Json::object();
  Json required = Json::array();
  std::vector<Row> rows;
};

/// An object whose members are being told.
struct Object {
  std::string name;
  Json properties = Json::object();
  Json required = Json::array();
  Json besides = Json::object();
  std::vector<Row> rows;
  std::string kindKey;
  std::vector<Kind> kinds;
  size_t kindsAt = 0;  ///< Rows before those of the kinds.
};

Json refTo(std::string_view name) {
  return {{"$ref", "#/definitions/" + std::string(name)}};
}
Json objectOf(Json properties, Json required) {
  return {{"type", "object"}, {"additionalProperties", false}, {"required", std::move(required)},
      {"properties", std::move(properties)}};
}
/// With one member.
Json objectOf(const char* key, Json value) {
  return objectOf({{key, std::move(value)}}, {key});
}
Json orNull(Json schema) {
  return {{"anyOf", {std::move(schema), {{"type", "null"}}}}};
}
Json numberOf(const Range& range, bool whole) {
  Json out = {{"type", whole ? "integer" : "number"}};
  const auto end = [&](const char* key, double value) {
    if (!std::isfinite(value)) return;
    if (std::floor(value) == value && std::abs(value) <= 0x1p53)
      out[key] = static_cast<int64_t>(value);
    else
      out[key] = value;
  };
  end("minimum", range.low);
  end("maximum", range.high);
  return out;
}

/// "1,000,000", "−0.5".
std::string numberText(double value) {
  if (const double power = std::round(std::log10(std::abs(value)));
      power >= 9 && std::abs(value) == std::pow(10.0, power))
    return fmt::format("{}10^{}", value < 0 ? "−" : "", power);
  std::string text = fmt::format("{}", std::abs(value));
  if (std::floor(value) == value && std::abs(value) < 1e15) {
    text = fmt::format("{:.0f}", std::abs(value));
    for (size_t at = text.size(); at > 3 && std::abs(value) >= 10'000; text.insert(at, ","))
      at -= 3;
  }
  return (value < 0 ? "−" : "") + text;
}
std::string withUnit(std::string text, std::string_view unit) {
  return unit.empty() || unit == "share" ? text : fmt::format("{} {}", text, unit);
}
std::string rangeText(const About& about) {
  if (!about.accepted.empty()) return withUnit(std::string(about.accepted), about.unit);
  if (!std::isfinite(about.range.high)) return about.whole ? "a whole number" : "a number";
  const auto [low, high] = about.range;
  return withUnit(low == high    ? numberText(low)
                  : low == -high ? "±" + numberText(high)
                                 : numberText(low) + " to " + numberText(high),
      about.unit);
}
std::string quoted(const std::vector<std::string>& words) {
  std::string out;
  for (const std::string& one : words) out += (out.empty() ? "`" : ", `") + one + "`";
  return out;
}
std::string quoted(const Words& words) {
  return quoted(std::vector<std::string>(words.begin(), words.end()));
}

class PageVisitor : public Visitor {
 public:
  Json definitions = Json::object();
  std::map<std::string, std::vector<Row>> tables;
  Json root;  // What was said last.

  bool fresh() const override { return true; }
  bool changes() const override { return true; }

  void number(const About& about, double& v) override {
    Json schema = numberOf(about.range, about.whole);
    put(about, about.nullable ? orNull(std::move(schema)) : std::move(schema), rangeText(about),
        numberText(v));
  }
  void whole(const About& about, int64_t& v) override {
    About said = about;
    said.whole = true;
    Json schema = numberOf(about.range, true);
    if (about.least > 0) schema["minimum"] = about.least;
    put(about, std::move(schema), rangeText(said), fmt::format("{}", v));
  }
  void flag(const About& about, bool& v) override {
    put(about, {{"type", "boolean"}}, "true, false", v ? "true" : "false");
  }
  void text(const About& about, std::string& v) override {
    Json schema = {{"type", "string"}};
    std::string accepted = "text";
    switch (about.role) {
      case Role::Id:
      case Role::Tag:
      case Role::Listed:
      case Role::Field:
      case Role::Biome:
      case Role::Slice:
      case Role::Cave:
      case Role::Walls:
        accepted = about.role == Role::Listed  ? "a material"
                   : about.role == Role::Field ? "a field"
                   : about.role == Role::Biome ? "a biome"
                   : about.role == Role::Slice ? "a slice"
                   : about.role == Role::Cave  ? "a cave kind"
                   : about.role == Role::Walls ? "a process"
                                               : "an id";
        schema = about.presence == Presence::Must ? refTo("id") : refTo("idOrNone");
        break;
      case Role::Material:
      case Role::Ground:
        accepted = about.role == Role::Ground ? "a material, `surface`, null" : "a material, null";
        schema = refTo("materialOrNull");
        break;
      default:
        if (about.role == Role::File) accepted = "a file";
        if (about.least > 0) schema["minLength"] = about.least;
        if (about.most < SIZE_MAX) {
          schema["maxLength"] = about.most;
          accepted += fmt::format(", up to {} bytes", about.most);
        }
        if (!about.pattern.empty()) schema["pattern"] = about.pattern;
    }
    put(about, std::move(schema), accepted, v.empty() ? "" : "`" + v + "`");
  }
  void choice(const About& about, const Words& words, size_t& v) override {
    put(about, {{"enum", words}}, quoted(words), "`" + std::string(words[v]) + "`");
  }
  void colour(const About& about, Colour&) override {
    put(about, {{"type", "string"}, {"pattern", "^#[0-9A-Fa-f]{6}$"}}, "`#RRGGBB`", "");
  }
  void threshold(const About& about, Threshold&) override {
    Json ways = {numberOf(about.range, false), objectOf("share", numberOf(limits::share, false))};
    if (about.fromSea) ways.push_back(objectOf("sea", numberOf(about.range, false)));
    put(about, {{"anyOf", ways}},
        rangeText(about) + (about.fromSea ? ", `{ \"sea\" }` above it," : "") +
            " or `{ \"share\" }` 0 to 1",
        "");
  }
  void amount(const About& about, Amount& v) override {
    const Json any = {{"type", "number"}};
    Json ways = {numberOf(about.range, false),
        objectOf({{"at", any}, {"perFloor", any}}, {"at", "perFloor"})};
    put(about, {{"anyOf", ways}}, rangeText(about) + ", or `{ \"at\", \"perFloor\" }`",
        numberText(v.at));
  }
  void curve(const About& about, Curve&) override {
    Json point = {{"type", "array"}, {"minItems", 2}, {"maxItems", 2},
        {"items", {numberOf(limits::altitude, false), numberOf(about.range, false)}}};
    put(about, {{"type", "array"}, {"maxItems", limits::curvePoints}, {"items", std::move(point)}},
        fmt::format("2 to {} points `[x, y]`, y {}", limits::curvePoints, rangeText(about)), "");
  }
  void pair(const About& about, std::optional<double>& a, std::optional<double>& b) override {
    Json end = numberOf(about.range, about.whole);
    if (about.nullable) end = orNull(std::move(end));
    const auto shown = [](const std::optional<double>& v) { return v ? numberText(*v) : "null"; };
    put(about, {{"type", "array"}, {"minItems", 2}, {"maxItems", 2}, {"items", std::move(end)}},
        "two of " + rangeText(about), fmt::format("[{}, {}]", shown(a), shown(b)));
  }
  void rows(const About& about, Painting&) override {
    const Json row = {
        {"type", "string"}, {"pattern", "^[0-9]+(\\*[0-9]+)?( [0-9]+(\\*[0-9]+)?)*$"}};
    put(about,
        {{"type", "array"}, {"minItems", about.range.low}, {"maxItems", about.range.high},
            {"items", row}},
        rangeText(about) + " rows", "");
  }

  bool optional(const About&, bool) override {
    optional_ = true;
    return true;
  }
  void object(const About& about, const Members& members) override {
    const bool optional = std::exchange(optional_, false);
    auto instead = std::exchange(instead_, std::nullopt);
    Object inner;
    std::swap(inner, object_);
    members();
    std::swap(inner, object_);
    const std::string name = inner.name;
    Json schema = close(std::move(inner));
    if (!name.empty()) {
      definitions[name] = std::move(schema);
      schema = refTo(name);
    }
    if (about.nullable) schema = orNull(std::move(schema));
    optional_ = optional;
    instead_ = std::move(instead);
    put(about, std::move(schema), name.empty() ? "an object" : fmt::format("*{}*", name), "");
  }
  void list(const About& about, size_t, const Member& resize, const Member& member) override {
    const bool optional = std::exchange(optional_, false);
    auto instead = std::exchange(instead_, std::nullopt);
    resize(1);
    member(0);
    optional_ = optional;
    instead_ = std::move(instead);
    Json schema = {{"type", "array"}};
    if (about.least > 0) schema["minItems"] = about.least;
    std::string accepted = "a list of " + (listed_.empty() ? std::string("such") : listed_);
    if (about.most < SIZE_MAX) {
      schema["maxItems"] = about.most;
      accepted += fmt::format(", up to {}", about.most);
    }
    schema["items"] = std::move(root);
    put(about, std::move(schema), accepted, "");
  }
  void kinds(const About& about, const Words& words, size_t, const Member& members) override {
    object_.kindKey = about.key;
    object_.kindsAt = object_.rows.size();
    for (size_t i = 0; i < words.size(); ++i) {
      Object one;
      std::swap(one, object_);
      members(i);
      std::swap(one, object_);
      const auto same =
          std::find_if(object_.kinds.begin(), object_.kinds.end(), [&](const Kind& kind) {
            return kind.properties == one.properties && kind.required == one.required;
          });
      Kind& kind = same != object_.kinds.end() ? *same : object_.kinds.emplace_back();
      kind.words.push_back(words[i]);
      kind.properties = std::move(one.properties);
      kind.required = std::move(one.required);
      kind.rows = std::move(one.rows);
    }
    object_.rows.push_back({"`" + std::string(about.key) + "`", std::string(about.what),
        quoted(words), about.presence == Presence::Must ? "" : "—"});
  }
  bool instead(const About&, const Words& words, size_t&, bool) override {
    instead_ = {{{"enum", words}}, quoted(words)};
    return false;
  }
  bool lent(const About&, std::string&) override {
    instead_ = {objectOf("of", refTo("id")), "`{ \"of\" }` a biome"};
    return false;
  }
  void begin(std::string_view name) override { object_.name = name; }
  void apart(const About& about) override {
    static const Json kCells = Json::parse(R"({"oneOf": [
      {"type": "object", "additionalProperties": false, "required": ["hash"],
       "properties": {"hash": {"type": "string", "pattern": "^[0-9a-f]{32}$"}}},
      {"type": "object", "additionalProperties": false, "required": ["seed", "materials", "cells"],
       "properties": {"seed": {"type": "string", "minLength": 1, "maxLength": 200},
                      "materials": {"type": "array", "items": {"$ref": "#/definitions/id"}},
                      "cells": {"type": "array", "items": {"type": "integer"}}}}]})");
    put(about, kCells, "see below", "");
  }
  void also(std::string_view schema) override { object_.besides.update(Json::parse(schema)); }

 private:
  void put(const About& about, Json schema, std::string accepted, std::string usual) {
    if (instead_) {
      schema = {{"anyOf", {instead_->first, std::move(schema)}}};
      accepted = instead_->second + ", or " + accepted;
      instead_.reset();
    }
    const bool optional = std::exchange(optional_, false);
    if (about.key.empty()) {
      root = std::move(schema);
      listed_ = std::move(accepted);
      return;
    }
    const std::string key(about.key);
    const bool must = about.presence == Presence::Must;
    if (must) object_.required.push_back(key);
    if (!schema.contains("$ref")) schema["description"] = about.what;
    object_.properties[key] = std::move(schema);
    object_.rows.push_back({"`" + key + "`", std::string(about.what), std::move(accepted),
        must            ? ""
        : optional      ? "none"
        : usual.empty() ? "none"
                        : std::move(usual)});
  }

  /// The schema of an object whose members are all told; its table is kept.
  Json close(Object object) {
    if (object.kinds.empty()) {
      tables[object.name] = object.rows;
      Json out = objectOf(std::move(object.properties), std::move(object.required));
      out.update(object.besides);
      return out;
    }
    Json ways = Json::array();
    std::vector<Row> ofKinds;
    size_t all = 0;
    for (const Kind& kind : object.kinds) {
      Json properties = object.properties, required = object.required;
      properties[object.kindKey] = {{"enum", kind.words}};
      required.push_back(object.kindKey);
      properties.update(kind.properties);
      for (const Json& key : kind.required) required.push_back(key);
      ways.push_back(objectOf(std::move(properties), std::move(required)));
      all += kind.words.size();
      for (const Row& row : kind.rows) {
        const auto known = std::find_if(
            ofKinds.begin(), ofKinds.end(), [&](const Row& r) { return r.saysTheSame(row); });
        Row& told = known != ofKinds.end() ? *known : ofKinds.emplace_back(row);
        told.usual = row.usual;
        for (const std::string word : kind.words) told.kinds.push_back(word);
      }
    }
    for (Row& row : ofKinds)
      if (row.kinds.size() == all) row.kinds.clear();
    std::vector<Row> rows = std::move(object.rows);
    rows.insert(
        rows.begin() + static_cast<ptrdiff_t>(object.kindsAt) + 1, ofKinds.begin(), ofKinds.end());
    tables[object.name] = std::move(rows);
    return ways.size() == 1 ? ways[0] : Json{{"oneOf", std::move(ways)}};
  }

  Object object_;
  bool optional_ = false;
  std::optional<std::pair<Json, std::string>> instead_;
  std::string listed_;  // What the members of a list are.
};

PageVisitor visited() {
  PageVisitor visitor;
  visitor.definitions["id"] = {{"type", "string"}, {"pattern", "^[a-z0-9._-]{1,64}$"}};
  visitor.definitions["idOrNone"] = {{"type", "string"}, {"pattern", "^([a-z0-9._-]{1,64})?$"}};
  visitor.definitions["materialOrNull"] = orNull(refTo("id"));
  Recipe scratch;
  see(visitor, {}, scratch);
  return visitor;
}

}  // namespace

std::string recipeSchema() {
  PageVisitor visitor = visited();
  Json out = {
      {"$schema", "http://json-schema.org/draft-07/schema#"}, {"title", "Kindred Acre recipe"}};
  out.update(visitor.definitions["recipe"]);
  visitor.definitions.erase("recipe");
  out["definitions"] = std::move(visitor.definitions);
  return out.dump(2) + "\n";
}

namespace {

/// " of `ramp`": which kinds have a member.
std::string kindsText(const std::vector<std::string>& kinds) {
  const Words& noise = wordsOf(Basis{});
  if (kinds.empty()) return {};
  const bool allNoise = std::is_permutation(kinds.begin(), kinds.end(), noise.begin(), noise.end());
  return " of " + (allNoise ? "noise" : quoted(kinds));
}

std::string tableOf(const std::vector<Row>& rows) {
  std::string out = "| key | what | accepted | else |\n| --- | --- | --- | --- |\n";
  for (const Row& row : rows)
    out += fmt::format("| {}{} | {} | {} | {} |\n", row.key, kindsText(row.kinds), row.what,
        row.accepted, row.usual);
  return out;
}

}  // namespace

Result<std::string> withTables(std::string_view page) {
  constexpr std::string_view kBegin = "<!-- members of ", kClose = " -->\n", kEnd = "<!-- end -->";
  const PageVisitor visitor = visited();
  std::string out;
  while (true) {
    const size_t begin = page.find(kBegin);
    if (begin == std::string_view::npos) break;
    const size_t close = page.find(kClose, begin), end = page.find(kEnd, begin);
    const std::string place = fmt::format(
        "line {}", std::count(page.begin(), page.begin() + static_cast<ptrdiff_t>(begin), '\n') +
                       std::count(out.begin(), out.end(), '\n') + 1);
    if (close == std::string_view::npos || end == std::string_view::npos || end < close)
      return invalidInput("a mark without its end", place, std::string(kEnd));
    const std::string name(page.substr(begin + kBegin.size(), close - begin - kBegin.size()));
    const auto table = visitor.tables.find(name);
    if (table == visitor.tables.end()) {
      std::string known;
      for (const auto& [one, unused] : visitor.tables) known += (known.empty() ? "" : ", ") + one;
      return invalidInput(fmt::format("nothing is called \"{}\"", name), place, known);
    }
    out += page.substr(0, close + kClose.size());
    out += tableOf(table->second);
    out += kEnd;
    page.remove_prefix(end + kEnd.size());
  }
  return out + std::string(page);
}

}  // namespace acre
