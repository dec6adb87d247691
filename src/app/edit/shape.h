/// What decides which controls a part of the recipe has.
#pragma once

#include <string>
#include <vector>

#include "recipe/look.h"

namespace app {

/// Hears everything of a part but its numbers and its names: which kind it is of, what it has, what
/// is on. Two parts of the same shape have the same controls.
class ShapeVisitor : public acre::PlainVisitor {
 public:
  void flag(const acre::About&, bool& v) override { add(v ? "+" : "-"); }
  void text(const acre::About& about, std::string& v) override {
    if (about.keyed) add(v);  // Names and notes decide nothing.
  }
  void choice(const acre::About&, const acre::Words&, size_t& v) override { add(v); }
  void threshold(const acre::About&, acre::Threshold& v) override {
    add(v.share ? "%" : v.fromSea ? "~" : "=");
  }
  void curve(const acre::About&, acre::Curve& v) override { add(v.empty() ? "0" : "c"); }
  void pair(const acre::About&, std::optional<double>& a, std::optional<double>& b) override {
    add((a ? 1u : 0u) + (b ? 2u : 0u));
  }
  bool optional(const acre::About&, bool there) override {
    add(there ? "(" : "_");
    return there;
  }
  void list(const acre::About&, size_t count, const Member&, const Member& member) override {
    add(count);
    for (size_t i = 0; i < count; ++i) member(i);
  }
  void kinds(const acre::About&, const acre::Words&, size_t now, const Member& members) override {
    add(now);
    members(now);
  }
  bool instead(const acre::About&, const acre::Words&, size_t& v, bool now) override {
    if (now) add(v);
    return now;
  }
  bool lent(const acre::About&, std::string& of) override {
    add(of);
    return !of.empty();
  }

  const std::string& shape() const { return shape_; }

 private:
  void add(size_t n) { add(std::to_string(n)); }
  void add(std::string_view text) { shape_.append(text).push_back('|'); }
  std::string shape_;
};

/// The shape of a part.
template <class T>
std::string shapeOf(const T& part) {
  ShapeVisitor visitor;
  acre::look(visitor, part);
  return visitor.shape();
}
template <class T>
std::string shapeOf(const std::vector<T>& parts) {
  std::string out;
  for (const T& part : parts) out += shapeOf(part) + "/";
  return out;
}

/// Ids and names of a list, which choices offer.
template <class T>
std::string namesOf(const std::vector<T>& list) {
  std::string out;
  for (const T& member : list) out += member.id + "=" + member.name + "|";
  return out;
}

}  // namespace app
