#include <fmt/format.h>

#include <charconv>
#include <limits>

#include "recipe/describe.h"
#include "recipe/json.h"
#include "recipe/json_parts.h"
#include "recipe/level_recipe.h"

namespace acre {
namespace {

/// Fills one row; false when the text is no list of runs of just so many numbers.
bool readRuns(const std::string& text, int columns, std::vector<uint16_t>& cells) {
  const char* at = text.data();
  const char* const end = at + text.size();
  int left = columns;
  while (at < end) {
    unsigned count = 1, value = 0;
    auto read = std::from_chars(at, end, value);
    if (read.ec != std::errc{}) return false;
    if (read.ptr < end && *read.ptr == '*') {
      count = value;
      read = std::from_chars(read.ptr + 1, end, value);
      if (read.ec != std::errc{}) return false;
    }
    if (count < 1 || count > static_cast<unsigned>(left) || value > 65535) return false;
    cells.insert(cells.end(), count, static_cast<uint16_t>(value));
    left -= static_cast<int>(count);
    at = read.ptr;
    if (at < end && *at++ != ' ') return false;
  }
  return left == 0;
}

/// A whole number of a range; any that fits where there is none.
int64_t wholeNumber(const JsonReader& in, const Range& range) {
  using Limits = std::numeric_limits<int64_t>;
  const bool any = range.high > 0x1p62;
  return in.integer(any ? Limits::min() : static_cast<int64_t>(range.low),
      any ? Limits::max() : static_cast<int64_t>(range.high));
}

class Filler : public Visitor {
 public:
  explicit Filler(const JsonReader& in) : here_(&in) {}

  bool fills() const override { return true; }

  void number(const About& about, double& v) override {
    with(about, [&](const JsonReader& in) { v = in.number(about.range); });
  }
  void whole(const About& about, int64_t& v) override {
    with(about, [&](const JsonReader& in) { v = wholeNumber(in, about.range); });
  }
  void flag(const About& about, bool& v) override {
    with(about, [&](const JsonReader& in) { v = in.boolean(); });
  }
  void text(const About& about, std::string& v) override {
    with(about, [&](const JsonReader& in) {
      v = isMaterial(about.role) && in.isNull() ? kUnassignedId : in.text();
    });
  }
  void choice(const About& about, const Words& words, size_t& v) override {
    with(about, [&](const JsonReader& in) { v = in.choice(words); });
  }
  void colour(const About& about, Colour& v) override {
    with(about, [&](const JsonReader& in) {
      const std::string text = in.text();
      uint32_t rgb = 0;
      const char* end = text.data() + text.size();
      if (text.size() != 7 || text[0] != '#' ||
          std::from_chars(text.data() + 1, end, rgb, 16).ptr != end)
        in.refuse(fmt::format("\"{:.40}\" is not a colour", text), "\"#RRGGBB\"");
      v = {static_cast<uint8_t>(rgb >> 16), static_cast<uint8_t>(rgb >> 8),
          static_cast<uint8_t>(rgb)};
    });
  }
  void threshold(const About& about, Threshold& v) override {
    with(about, [&](const JsonReader& in) {
      if (!in.isObject()) return void(v = {in.number(about.range), false, {}});
      const bool sea = !in.has("share") && about.fromSea;
      in.expectObject({sea ? "sea" : "share"});
      if (sea)
        v = {in.member("sea").number(about.range), true, {}};
      else
        v = {0, false, in.member("share").number(limits::share)};
    });
  }
  void amount(const About& about, Amount& v) override {
    with(about, [&](const JsonReader& in) {
      if (!in.isObject()) return void(v = {in.number(about.range), 0});
      in.expectObject({"at", "perFloor"});
      v = {in.member("at").number(about.range), in.member("perFloor").number()};
    });
  }
  void curve(const About& about, Curve& v) override {
    with(about, [&](const JsonReader& in) {
      v.clear();
      for (const JsonReader& point : in.members()) {
        const auto ends = both(point);
        if (ends.empty()) continue;
        v.push_back({ends[0].number(limits::altitude), ends[1].number(about.range)});
      }
    });
  }
  void pair(const About& about, std::optional<double>& a, std::optional<double>& b) override {
    with(about, [&](const JsonReader& in) {
      const auto ends = both(in);
      if (ends.empty()) return;
      for (const auto& [end, value] : {std::pair(&ends[0], &a), {&ends[1], &b}}) {
        if (about.nullable && end->isNull())
          value->reset();
        else
          *value = about.whole ? static_cast<double>(wholeNumber(*end, about.range))
                               : end->number(about.range);
      }
    });
  }
  void rows(const About& about, Painting& v) override {
    with(about, [&](const JsonReader& in) {
      const auto rows = in.members();
      v.rows = static_cast<int>(std::min<size_t>(rows.size(), size_t{1} << 16));
      for (const JsonReader& row : rows) {
        if (v.cells.size() > size_t{1} << 20) break;  // Too many rows; the check will say so.
        if (readRuns(row.text(), v.columns, v.cells)) continue;
        row.refuse("this is no row of the painting",
            fmt::format("runs like \"12*0 5*1 3\", {} numbers in all", v.columns));
        return;
      }
    });
  }

  bool optional(const About& about, bool) override {
    note(about);
    if (about.key.empty() || about.presence == Presence::Must) return true;
    return here_->has(about.key) && !(about.nullable && here_->member(about.key).isNull());
  }
  void object(const About& about, const Members& members) override {
    with(about, [&](const JsonReader& in) {
      if (about.nullable && in.isNull()) return;
      std::vector<std::string_view> keys;
      std::swap(keys, keys_);
      const JsonReader* outer = std::exchange(here_, &in);
      const bool sound = in.sound(), of = std::exchange(ofNoKind_, false);
      members();
      here_ = outer;
      std::swap(keys, keys_);
      if (!std::exchange(ofNoKind_, of)) in.expectObject(keys, sound);
    });
  }
  void list(const About& about, size_t, const Member& resize, const Member& member) override {
    with(about, [&](const JsonReader& in) {
      const auto members = in.members();
      if (about.least > 0 && (members.size() < about.least || members.size() > about.most))
        return in.refuse(fmt::format("{} members", members.size()),
            about.least == about.most ? fmt::format("{} of them", about.least)
                                      : fmt::format("{} to {} of them", about.least, about.most));
      resize(members.size());
      const JsonReader* outer = item_;
      for (size_t i = 0; i < members.size(); ++i) {
        item_ = &members[i];
        member(i);
      }
      item_ = outer;
    });
  }
  void kinds(const About& about, const Words& words, size_t, const Member& members) override {
    note(about);
    const bool sound = here_->sound();
    const size_t kind = here_->isObject() ? here_->member(about.key).choice(words) : 0;
    ofNoKind_ = sound && !here_->sound();
    members(kind);
  }
  bool instead(const About& about, const Words& words, size_t& v, bool now) override {
    note(about);
    if (!here_->has(about.key)) return now;
    const JsonReader in = here_->member(about.key);
    if (in.isObject()) return false;
    v = in.choice(words);
    return true;
  }
  bool lent(const About& about, std::string& of) override {
    note(about);
    const JsonReader in = here_->member(about.key);
    if (!in.isObject()) return false;
    in.expectObject({"of"});
    of = in.member("of").text();
    return true;
  }
  void apart(const About& about) override { note(about); }

 private:
  void note(const About& about) {
    if (!about.key.empty()) keys_.push_back(about.key);
  }
  /// The value of a member, unless it may be missing and is.
  template <class Take>
  void with(const About& about, Take&& take) {
    note(about);
    if (about.key.empty()) return take(item_ ? *item_ : *here_);
    if (about.presence != Presence::Must && !here_->has(about.key)) return;
    take(here_->member(about.key));
  }
  /// The two members of a list; none when there are not just two.
  static std::vector<JsonReader> both(const JsonReader& in) {
    auto ends = in.members();
    if (ends.size() == 2) return ends;
    in.refuse(fmt::format("{} numbers", ends.size()), "two numbers");
    return {};
  }

  const JsonReader* here_;              // The object whose members are read,
  const JsonReader* item_ = nullptr;    // and the member of a list that is.
  bool ofNoKind_ = false;               // Its kind is not known, so that nobody knows its keys.
  std::vector<std::string_view> keys_;  // Of the object, as they are asked for.
};

}  // namespace

Recipe readRecipe(const JsonReader& in) {
  Recipe recipe;
  Filler filler(in);
  see(filler, {}, recipe);
  return recipe;
}

}  // namespace acre
