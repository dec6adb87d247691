#include "recipe/look.h"

#include "base/data_uri.h"
#include "recipe/recipe.h"

namespace acre {

void KeyVisitor::threshold(const About&, Threshold& v) {
  if (altitude_)
    out_.f32(altitude_(v));
  else
    out_.f64(v.value).u8(v.fromSea).u8(v.share.has_value()).f64(v.share.value_or(0));
}

void KeyVisitor::curve(const About&, Curve& v) {
  out_.u64(v.size());
  for (const CurvePoint& point : v) out_.f64(point.x).f64(point.y);
}

void KeyVisitor::pair(const About&, std::optional<double>& a, std::optional<double>& b) {
  for (const auto& end : {a, b}) out_.u8(end.has_value()).f64(end.value_or(0));
}

void KeyVisitor::rows(const About&, Painting& v) {
  out_.u64(v.cells.size());
  for (const uint16_t cell : v.cells) out_.u32(cell);
}

bool KeyVisitor::optional(const About&, bool there) {
  out_.u8(there);
  return there;
}

void KeyVisitor::list(const About&, size_t count, const Member&, const Member& member) {
  out_.u64(count);
  for (size_t i = 0; i < count; ++i) member(i);
}

void KeyVisitor::kinds(const About&, const Words&, size_t now, const Member& members) {
  out_.u64(now);
  members(now);
}

bool KeyVisitor::instead(const About&, const Words&, size_t& v, bool now) {
  out_.u8(now).u64(v);
  return now;
}

uint64_t bytesOf(const Recipe& recipe) {
  struct Scales : PlainVisitor {
    uint64_t bytes = sizeof(Recipe);
    bool meets(const About&, const void*) override { return bytes += 8, true; }
    void text(const About&, std::string& v) override { bytes += sizeof(v) + v.capacity(); }
    void curve(const About&, Curve& v) override { bytes += v.size() * sizeof(CurvePoint); }
    void rows(const About&, Painting& v) override { bytes += v.cells.size() * sizeof(uint16_t); }
    void list(const About&, size_t count, const Member&, const Member& member) override {
      bytes += 48 * count;  // What members have besides those that are met.
      for (size_t i = 0; i < count; ++i) member(i);
    }
  } scales;
  look(scales, recipe);
  return scales.bytes;
}

void eachFile(Recipe& recipe, const std::function<void(std::string&)>& visit) {
  struct Files : PlainVisitor {
    explicit Files(const std::function<void(std::string&)>& each) : visit(each) {}
    bool changes() const override { return true; }
    void text(const About& about, std::string& value) override {
      if (about.role == Role::File && !value.empty() && !isDataUri(value)) visit(value);
    }
    const std::function<void(std::string&)>& visit;
  } files(visit);
  describe(files, recipe);
}

}  // namespace acre
