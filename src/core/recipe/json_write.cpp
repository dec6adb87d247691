#include <fmt/format.h>

#include <cmath>

#include "recipe/describe.h"
#include "recipe/json.h"
#include "recipe/json_parts.h"
#include "recipe/level_recipe.h"

namespace acre {
namespace {

/// Whole values without a decimal point; −0 as 0.
Json numberJson(double v) {
  if (std::floor(v) == v && v >= -0x1p53 && v <= 0x1p53) return static_cast<int64_t>(v);
  return v;
}

/// "12*0 5*1 3": runs of the numbers of one row.
std::string runsText(const uint16_t* cells, int count) {
  std::string text;
  for (int i = 0, n = 1; i < count; i += n, n = 1) {
    while (i + n < count && cells[i + n] == cells[i]) ++n;
    if (!text.empty()) text += ' ';
    if (n > 1) text += fmt::format("{}*", n);
    text += fmt::format("{}", cells[i]);
  }
  return text;
}

class Writer : public Visitor {
 public:
  Json take() { return std::move(out_); }

  void number(const About& about, double& v) override { put(about, numberJson(v)); }
  void whole(const About& about, int64_t& v) override { put(about, v); }
  void flag(const About& about, bool& v) override { put(about, v); }
  void text(const About& about, std::string& v) override {
    put(about, isMaterial(about.role) && v == kUnassignedId ? Json() : Json(v));
  }
  void choice(const About& about, const Words& words, size_t& v) override { put(about, words[v]); }
  void colour(const About& about, Colour& v) override { put(about, colourText(v)); }
  void threshold(const About& about, Threshold& v) override {
    if (v.share)
      put(about, {{"share", numberJson(*v.share)}});
    else if (v.fromSea)
      put(about, {{"sea", numberJson(v.value)}});
    else
      put(about, numberJson(v.value));
  }
  void amount(const About& about, Amount& v) override {
    if (v.perFloor == 0)
      put(about, numberJson(v.at));
    else
      put(about, {{"at", numberJson(v.at)}, {"perFloor", numberJson(v.perFloor)}});
  }
  void curve(const About& about, Curve& v) override {
    Json points = Json::array();
    for (const CurvePoint& p : v) points.push_back({numberJson(p.x), numberJson(p.y)});
    put(about, std::move(points));
  }
  void pair(const About& about, std::optional<double>& a, std::optional<double>& b) override {
    put(about, {a ? numberJson(*a) : Json(), b ? numberJson(*b) : Json()});
  }
  void rows(const About& about, Painting& v) override {
    Json rows = Json::array();
    for (int j = 0; j < v.rows; ++j)
      rows.push_back(runsText(v.cells.data() + ptrdiff_t{j} * v.columns, v.columns));
    put(about, std::move(rows));
  }

  bool optional(const About& about, bool there) override {
    if (!there && about.nullable && about.presence != Presence::Sparse) put(about, Json());
    return there;
  }
  void object(const About& about, const Members& members) override {
    if (!wanted(about)) return;
    inside(about, Json::object(), members);
  }
  void list(const About& about, size_t count, const Member&, const Member& member) override {
    if (!wanted(about)) return;
    inside(about, Json::array(), [&] {
      for (size_t i = 0; i < count; ++i) member(i);
    });
  }
  void kinds(const About& about, const Words& words, size_t now, const Member& members) override {
    put(about, words[now]);
    members(now);
  }
  bool instead(const About& about, const Words& words, size_t& v, bool now) override {
    if (now) put(about, words[v]);
    return now;
  }
  bool lent(const About& about, std::string& of) override {
    if (of.empty()) return false;
    put({.key = about.key}, {{"of", of}});
    return true;
  }

 private:
  static bool wanted(const About& about) {
    return about.written && !(about.presence == Presence::Sparse && about.same);
  }
  void put(const About& about, Json value) {
    if (!wanted(about)) return;
    if (about.key.empty() && out_.is_array())
      out_.push_back(std::move(value));
    else if (about.key.empty())
      out_ = std::move(value);
    else
      out_[std::string(about.key)] = std::move(value);
  }
  /// Puts an object or a list once its members are in it.
  void inside(const About& about, Json empty, const Members& members) {
    std::swap(out_, empty);
    members();
    std::swap(out_, empty);
    put(about, std::move(empty));
  }

  Json out_;  // What is being filled.
};

}  // namespace

Json recipeJson(const Recipe& recipe) {
  Writer writer;
  look(writer, recipe);
  return writer.take();
}

}  // namespace acre
