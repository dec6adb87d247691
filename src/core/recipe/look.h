/// Visitors that only look at a recipe.
#pragma once

#include <functional>

#include "base/hash.h"
#include "recipe/describe.h"

namespace acre {

/// Looks into everything and does nothing: for visitors that care about one kind of member.
class PlainVisitor : public Visitor {
 public:
  void number(const About&, double&) override {}
  void whole(const About&, int64_t&) override {}
  void flag(const About&, bool&) override {}
  void text(const About&, std::string&) override {}
  void choice(const About&, const Words&, size_t&) override {}
  void colour(const About&, Colour&) override {}
  void threshold(const About&, Threshold&) override {}
  void amount(const About&, Amount&) override {}
  void curve(const About&, Curve&) override {}
  void pair(const About&, std::optional<double>&, std::optional<double>&) override {}
  void rows(const About&, Painting&) override {}
  bool optional(const About&, bool there) override { return there; }
  void object(const About&, const Members& members) override { members(); }
  void list(const About&, size_t count, const Member&, const Member& member) override {
    for (size_t i = 0; i < count; ++i) member(i);
  }
  void kinds(const About&, const Words&, size_t now, const Member& members) override {
    members(now);
  }
  bool instead(const About&, const Words&, size_t&, bool now) override { return now; }
  bool lent(const About&, std::string& of) override { return !of.empty(); }
};

/// What is said of whatever lies at an address within a struct; nothing (no key) when that is no
/// described member.
template <class O>
About aboutAt(const O& of, const void* member) {
  struct Seeker : PlainVisitor {
    explicit Seeker(const void* of) : wanted(of) {}
    bool meets(const About& about, const void* at) override {
      if (at == wanted) found = about;
      return true;
    }
    const void* wanted;
    About found;
  };
  Seeker seeker(member);
  look(seeker, of);
  return seeker.found;
}

/// What is said of one member of a struct as it is: which members it has may depend on others.
template <class M, class O>
About aboutIn(const O& of, M O::*member) {
  return aboutAt(of, &(of.*member));
}

/// The same of a new one, as aboutOf(&Tunnels::step).
template <class M, class O>
About aboutOf(M O::*member) {
  return aboutIn(MembersOf<O>::usual(), member);
}

/// About how many bytes a recipe takes, without the cells changed by hand, which copies share.
uint64_t bytesOf(const Recipe& recipe);

/// How a threshold enters a key: the altitude that it stands for.
using AltitudeOf = std::function<float(const Threshold&)>;

/// Adds to a stage's key whatever of a value makes cells: every member that is said to. Names of
/// files are left out, since what is in them counts. altitude: for values that hold thresholds;
/// empty: as they stand.
template <class T>
void writeKey(DigestWriter& out, const T& value, const AltitudeOf& altitude = {});

/// The visitor behind it.
class KeyVisitor : public PlainVisitor {
 public:
  KeyVisitor(DigestWriter& out, const AltitudeOf& altitude) : out_(out), altitude_(altitude) {}

  void number(const About&, double& v) override { out_.f64(v); }
  void whole(const About&, int64_t& v) override { out_.i64(v); }
  void flag(const About&, bool& v) override { out_.u8(v); }
  void text(const About& about, std::string& v) override {
    if (about.role != Role::File) out_.text(v);
  }
  void choice(const About&, const Words&, size_t& v) override { out_.u64(v); }
  void threshold(const About&, Threshold& v) override;
  void amount(const About&, Amount& v) override { out_.f64(v.at).f64(v.perFloor); }
  void curve(const About&, Curve& v) override;
  void pair(const About& about, std::optional<double>& a, std::optional<double>& b) override;
  void rows(const About&, Painting& v) override;
  bool meets(const About& about, const void*) override { return about.keyed; }
  bool optional(const About&, bool there) override;
  void list(const About&, size_t count, const Member&, const Member& member) override;
  void kinds(const About&, const Words&, size_t now, const Member& members) override;
  bool instead(const About&, const Words&, size_t& v, bool now) override;

 private:
  DigestWriter& out_;
  const AltitudeOf& altitude_;
};

template <class T>
void writeKey(DigestWriter& out, const T& value, const AltitudeOf& altitude) {
  KeyVisitor visitor(out, altitude);
  look(visitor, value);
}

}  // namespace acre
