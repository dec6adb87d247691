/// What is said of the members of a recipe. Every struct of a recipe describes itself to a visitor:
/// each member with its key in the file, its words, unit and range. Reading, writing, checking,
/// the keys of stages, the schema and the tables of docs/recipe.md are visitors, so that a member
/// is told of in one place.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include "base/part.h"
#include "base/result.h"
#include "recipe/level_recipe.h"
#include "recipe/limits.h"
#include "recipe/recipe.h"

namespace acre {

// recipe/cave_recipe.h, object_recipe.h and water_recipe.h.
struct NoiseVoid;
struct Tunnels;
struct AutomatonLayer;
struct CaveKind;
struct BiomeDensity;
struct ObjectApart;
struct ObjectAttribute;
struct ObjectChoice;
struct ObjectFooting;
struct ObjectKind;
struct ObjectMust;
struct ObjectNoise;
struct ObjectPiece;
struct PieceAnchor;
struct PieceLayer;
struct PieceSign;
struct TreeStyle;
struct TileCaseWeights;
struct TileDrawing;
struct TileGroup;
struct TilePicture;
struct TileSet;
struct CourseStop;
struct GivenCourse;
struct RiverCourses;
enum class ObjectSign;
enum class ObjectStand;
enum class CrownShape;
enum class TreeLeaves;
enum class TileMethod;
enum class TileTurns;
enum class TileRim;
enum class TileEdge;
enum class TileAnchor;

/// Whether a member stands in the file.
enum class Presence {
  Must,   ///< Always.
  Usual,  ///< Written always; where it is missing it is as in a new struct.
  Sparse  ///< The same, but left out while it is as in a new struct.
};

/// What a text is.
enum class Role {
  Plain,
  Name,      ///< What people read.
  Id,        ///< Its own, among the members of its list.
  Material,  ///< Id of a listed material, or of a reserved one; null in the file: unassigned.
  Ground,    ///< The same, or the word for whatever the bands say.
  Listed,    ///< Id of a listed material; empty where it may be missing.
  Field,     ///< Id of a field; empty where it may be missing.
  Biome,     ///< Id of a biome.
  Slice,     ///< Id of a slice.
  Cave,      ///< Id of a cave kind.
  Walls,     ///< Id of a process of a level that makes walls of noise.
  Tag,       ///< A word like an id, that others may have too.
  File       ///< Name of a file.
};

/// Whether null stands for "unassigned".
constexpr bool isMaterial(Role role) {
  return role == Role::Material || role == Role::Ground;
}

/// What is said of one member. Made by said() and the functions below, as
/// sparse(cells(limits::depth)).of(Role::Field).
struct About {
  std::string_view key = {};    ///< In the file; empty: a member of a list.
  std::string_view title = {};  ///< In one or two words.
  std::string_view what = {};   ///< In a sentence.
  Range range = kAnyNumber;     ///< Of a number; of all numbers of a list.
  std::string_view unit = {};   ///< "cells", "share", "blocks"; empty: a bare number.
  double step = 0;              ///< By which a control changes it; 0: as the range asks.
  Presence presence = Presence::Usual;
  Role role = Role::Plain;  ///< Of a text, or of the texts of a list.
  bool whole = false;       ///< A number without a fraction, of type double.
  bool written = true;      ///< False: other members make it idle, so it stays out of the file.
  bool nullable = false;    ///< Nothing is null in the file.
  bool feature = false;     ///< A width of features: one over it is their frequency.
  bool fromSea = true;      ///< A threshold may be counted from the sea level.
  /// Part of the key of the stage that its struct belongs to; names, colours, units are not.
  bool keyed = true;
  size_t most = SIZE_MAX;          ///< Members of a list, bytes of a text, at most ...
  size_t least = 0;                ///< ... and at least; of a whole number in the schema.
  std::string_view accepted = {};  ///< In place of the range, where it follows from other members.
  std::string_view pattern = {};   ///< Regular expression of a text, for the schema.
  bool same = false;               ///< It is as in a new struct. Filled in by MembersOf.

  // The same with one thing changed.
  About there(Presence value) const { return with(&About::presence, value); }
  About of(Role value) const { return with(&About::role, value); }
  About when(bool value) const { return with(&About::written, value); }
  About upTo(size_t value) const { return with(&About::most, value); }
  About atLeast(size_t value) const { return with(&About::least, value); }
  About says(std::string_view value) const { return with(&About::accepted, value); }
  About matching(std::string_view value) const { return with(&About::pattern, value); }
  About wholeOnly() const { return with(&About::whole, true); }
  About orNull() const { return with(&About::nullable, true); }
  About ofFeatures() const { return with(&About::feature, true); }
  About absolute() const { return with(&About::fromSea, false); }
  About unkeyed() const { return with(&About::keyed, false); }

 private:
  template <class M>
  About with(M About::*member, M value) const {
    About out = *this;
    out.*member = value;
    return out;
  }
};

// Numbers by their unit.
inline About number(const Range& range, double step = 0, std::string_view unit = {}) {
  About out;
  out.range = range;
  out.step = step;
  out.unit = unit;
  return out;
}
inline About cells(const Range& range = kAnyNumber, double step = 0) {
  return number(range, step, "cells");
}
inline About blocks(const Range& range = kAnyNumber, double step = 0) {
  return number(range, step, "blocks");
}
inline About share(double step = 0, const Range& range = limits::share) {
  return number(range, step, "share");
}
inline About must(const About& about = {}) {
  return about.there(Presence::Must);
}
inline About sparse(const About& about = {}) {
  return about.there(Presence::Sparse);
}
inline About said(
    std::string_view key, std::string_view title, std::string_view what, About about = {}) {
  about.key = key;
  about.title = title;
  about.what = what;
  return about;
}

using Words = std::vector<std::string_view>;
/// The words of an enumeration in the file, in its order.
const Words& wordsOf(WorldKind);
const Words& wordsOf(ChunkShape);
const Words& wordsOf(MaterialState);
const Words& wordsOf(Basis);
const Words& wordsOf(Fractal);
const Words& wordsOf(CellularResult);
const Words& wordsOf(Metric);
const Words& wordsOf(Axis);
const Words& wordsOf(PictureSource::Outside);
const Words& wordsOf(FreshWaterSource::Tells);
const Words& wordsOf(Combine);
const Words& wordsOf(Edge::Kind);
const Words& wordsOf(Ore::Shape);
const Words& wordsOf(GridEdge);
const Words& wordsOf(ObjectSign);
const Words& wordsOf(ObjectStand);
const Words& wordsOf(CrownShape);
const Words& wordsOf(TreeLeaves);
const Words& wordsOf(TileMethod);
const Words& wordsOf(TileTurns);
const Words& wordsOf(TileRim);
const Words& wordsOf(TileEdge);
const Words& wordsOf(TileAnchor);
const Words& wordsOf(ChartRules);
const Words& wordsOf(Regions::Choice);

/// How a rule over several members sees the recipe and refuses it.
class Ruling {
 public:
  virtual ~Ruling() = default;
  virtual const Recipe& recipe() const = 0;
  /// Whether a material of that id is listed.
  virtual bool listed(const std::string& material) const = 0;
  /// JSON pointer of the struct whose rule this is.
  virtual const std::string& at() const = 0;
  /// member: pointer from there, "spacing" or "bands/3/below"; empty: the struct itself.
  virtual void refuse(const std::string& member, std::string what, std::string accepted) = 0;
  virtual void refuse(Error error) = 0;
  virtual bool ok() const = 0;  ///< Nothing is refused yet.
};

/// Sees the members of a recipe one by one. A visitor that only looks changes nothing: describing
/// stores into a member only what the visitor brought.
class Visitor {
 public:
  using Members = std::function<void()>;
  using Member = std::function<void(size_t)>;
  virtual ~Visitor() = default;

  virtual void number(const About&, double& value) = 0;
  virtual void whole(const About&, int64_t& value) = 0;
  virtual void flag(const About&, bool& value) = 0;
  virtual void text(const About&, std::string& value) = 0;
  virtual void choice(const About&, const Words&, size_t& value) = 0;
  virtual void colour(const About&, Colour& value) = 0;
  virtual void threshold(const About&, Threshold& value) = 0;
  virtual void amount(const About&, Amount& value) = 0;
  virtual void curve(const About&, Curve& value) = 0;
  /// Two numbers; nullable: either may be missing.
  virtual void pair(const About&, std::optional<double>& first, std::optional<double>& second) = 0;
  virtual void rows(const About&, Painting& value) = 0;

  /// Whether a member that may be missing is there.
  virtual bool optional(const About&, bool there) = 0;
  virtual void object(const About&, const Members& members) = 0;
  /// resize: called with how many there are to be, before the first.
  virtual void list(const About&, size_t count, const Member& resize, const Member& member) = 0;
  /// A word that says which further members the same object has.
  virtual void kinds(const About&, const Words&, size_t now, const Member& members) = 0;
  /// A word in place of what an object would say. True: the word stands there.
  virtual bool instead(const About&, const Words&, size_t& value, bool now) = 0;
  /// { "of": id } in place of a list: that of another biome. True: it stands there.
  virtual bool lent(const About&, std::string& of) = 0;

  /// Whether a member, which lies there, is looked into. Members that are told of as one, as the
  /// ends of a range, are met each before that.
  virtual bool meets(const About&, const void*) { return true; }
  virtual void begin(std::string_view) {}       ///< The name of the struct whose members follow.
  virtual bool fills() const { return false; }  ///< Brings values, for a new struct.
  /// Begins with what holds where a file says nothing.
  virtual bool fresh() const { return fills(); }
  virtual bool changes() const { return fills(); }  ///< May store into members.
  virtual void apart(const About&) {}               ///< A key whose value is kept elsewhere.
  virtual void also(std::string_view) {}            ///< What the schema says besides, as JSON.
  virtual void rule(const std::function<void(Ruling&)>&) {}  ///< Over several members.
};

// Every struct describes its members, in the order of the file.
void describe(Visitor& v, Recipe& recipe);
void describe(Visitor& v, Frame& frame);
void describe(Visitor& v, Notes& notes);
void describe(Visitor& v, AxisBounds& bounds);
void describe(Visitor& v, Material& material);
void describe(Visitor& v, NoiseSource& noise);  ///< Its basis as "kind".
void describe(Visitor& v, NoiseBand& band);
void describe(Visitor& v, Layer& layer);
void describe(Visitor& v, SamplingOffset& offset);
void describe(Visitor& v, FieldRecipe& field);
void describe(Visitor& v, Clamp& clamp);
void describe(Visitor& v, Mask& mask);
void describe(Visitor& v, Warp& warp);
void describe(Visitor& v, ClimateAxis& axis);
void describe(Visitor& v, Climate& climate);
void describe(Visitor& v, Relief& relief);
void describe(Visitor& v, IdealPoint& ideal);
void describe(Visitor& v, Biome& biome);
void describe(Visitor& v, Slice& slice);
void describe(Visitor& v, Painting& painting);
void describe(Visitor& v, Area& area);
void describe(Visitor& v, BorderWidths& border);
void describe(Visitor& v, RegionWarp& warp);
void describe(Visitor& v, Regions& regions);
void describe(Visitor& v, Biomes& biomes);
void describe(Visitor& v, Edge& edge);
void describe(Visitor& v, Band& band);
void describe(Visitor& v, SlopeBand& slope);
void describe(Visitor& v, Overhang& overhang);
void describe(Visitor& v, DepthLayer& layer);
void describe(Visitor& v, Rock& rock);
void describe(Visitor& v, Ore& ore);
void describe(Visitor& v, SeaWater& water);
void describe(Visitor& v, Rivers& rivers);
void describe(Visitor& v, RiverCourses& courses);
void describe(Visitor& v, GivenCourse& course);
void describe(Visitor& v, CourseStop& stop);
void describe(Visitor& v, Objects& objects);
void describe(Visitor& v, ObjectKind& kind);
void describe(Visitor& v, ObjectApart& of);
void describe(Visitor& v, ObjectChoice& of);
void describe(Visitor& v, ObjectFooting& of);
void describe(Visitor& v, ObjectMust& of);
void describe(Visitor& v, ObjectNoise& of);
void describe(Visitor& v, BiomeDensity& of);
void describe(Visitor& v, ObjectPiece& piece);
void describe(Visitor& v, PieceLayer& layer);
void describe(Visitor& v, PieceSign& sign);
void describe(Visitor& v, PieceAnchor& anchor);
void describe(Visitor& v, TreeStyle& style);
void describe(Visitor& v, ObjectAttribute& of);
void describe(Visitor& v, Tiling& tiling);
void describe(Visitor& v, TileSet& set);
void describe(Visitor& v, TileGroup& group);
void describe(Visitor& v, TileDrawing& drawing);
void describe(Visitor& v, TilePicture& picture);
void describe(Visitor& v, TileCaseWeights& weights);
void describe(Visitor& v, Caves& caves);
void describe(Visitor& v, NoiseVoid& part);
void describe(Visitor& v, Tunnels& tunnels);
void describe(Visitor& v, AutomatonLayer& layer);
void describe(Visitor& v, CaveKind& kind);
void describe(Visitor& v, Level& level);
void describe(Visitor& v, LevelProcess& process);
void describe(Visitor& v, LevelRooms::Piece& piece);
void describe(Visitor& v, LevelPlace& place);
// What processes are made of.
void describe(Visitor& v, NoiseWalls& p);
void describe(Visitor& v, FilledAutomaton& p);
void describe(Visitor& v, DiggingWalks& p);
void describe(Visitor& v, LevelBody& p);
void describe(Visitor& v, LevelRooms& p);
void describe(Visitor& v, LevelSpaces& p);
void describe(Visitor& v, LevelCourses& p);
/// The layers, curve and clamp of a field, and what a NoiseBand holds, inside another object.
void describeBody(Visitor& v, FieldRecipe& field);
void describeBand(Visitor& v, NoiseBand& band);
/// Rules of lists: bands end where the next begins; depth layers reach so deep together.
void bandRules(Ruling& rules, const std::string& member, const std::vector<Band>& bands);
/// What a world of the kind level needs besides; of the whole recipe.
void levelRules(Ruling& rules);
void layerRules(Ruling& rules, const std::string& member, const std::vector<DepthLayer>& layers);

template <class T>
void see(Visitor& v, const About& about, T& value);
template <class T>
void see(Visitor& v, const About& about, std::vector<T>& values);

inline void see(Visitor& v, const About& about, double& value) {
  v.number(about, value);
}
inline void see(Visitor& v, const About& about, bool& value) {
  v.flag(about, value);
}
inline void see(Visitor& v, const About& about, std::string& value) {
  v.text(about, value);
}
inline void see(Visitor& v, const About& about, Colour& value) {
  v.colour(about, value);
}
inline void see(Visitor& v, const About& about, Threshold& value) {
  v.threshold(about, value);
}
inline void see(Visitor& v, const About& about, Amount& value) {
  v.amount(about, value);
}
inline void see(Visitor& v, const About& about, Curve& value) {
  v.curve(about, value);
}
inline void see(Visitor& v, const About& about, Span& value) {
  v.pair(about, value.low, value.high);
}
template <class T>
void see(Visitor& v, const About& about, Part<T>& value) {
  see(v, about, v.changes() ? *value : const_cast<T&>(*std::as_const(value)));
}
template <class T>
void see(Visitor& v, const About& about, std::optional<T>& value) {
  const bool there = v.optional(about, value.has_value());
  if (there && !value) value.emplace();
  if (!there && value) value.reset();
  if (value) see(v, about, *value);
}
/// What stands in a list is said of each of its members.
template <class T>
void see(Visitor& v, const About& about, std::vector<T>& values) {
  About each = must(number(about.range)).of(about.role);
  each.whole = about.whole;
  v.list(
      about, values.size(),
      [&](size_t count) {
        if (count != values.size()) values.resize(count);
      },
      [&](size_t i) { see(v, each, values[i]); });
}
template <class T>
void see(Visitor& v, const About& about, T& value) {
  if constexpr (std::is_enum_v<T>) {
    auto index = static_cast<size_t>(value);
    v.choice(about, wordsOf(value), index);
    if (index != static_cast<size_t>(value)) value = static_cast<T>(index);
  } else if constexpr (std::is_integral_v<T>) {
    auto number = static_cast<int64_t>(value);
    v.whole(about, number);
    if (number != static_cast<int64_t>(value)) value = static_cast<T>(number);
  } else {
    v.object(about, [&] { describe(v, value); });
  }
}

/// Tells a visitor of the members of one struct:
///   members(&Tunnels::step, "step", "Step", "Cells between points.", cells(limits::tunnelStep));
template <class T>
class MembersOf {
 public:
  /// name: of the struct, in the schema and for the tables of the docs.
  MembersOf(Visitor& v, T& of, std::string_view name = {}) : v_(v), of_(of) {
    if (!name.empty()) v.begin(name);
  }

  template <class M, class O>
  void operator()(M O::*member, const About& said) const {
    About about = said;
    about.same = of_.*member == usual().*member;
    if (v_.meets(about, &(of_.*member))) see(v_, about, of_.*member);
  }
  template <class M, class O>
  void operator()(M O::*member, std::string_view key, std::string_view title, std::string_view what,
      const About& about = {}) const {
    (*this)(member, said(key, title, what, about));
  }
  /// A truth that is one of two words in the file: the first one for false.
  void either(bool T::*member, const Words& words, std::string_view key, std::string_view title,
      std::string_view what, About about = {}) const {
    about = said(key, title, what, about);
    about.same = of_.*member == usual().*member;
    if (!v_.meets(about, &(of_.*member))) return;
    size_t index = of_.*member ? 1 : 0;
    v_.choice(about, words, index);
    if ((index == 1) != of_.*member) of_.*member = index == 1;
  }
  void id() const {
    (*this)(&T::id, "id", "Id", "Stable; what is random hangs on it, not on place or name.",
        must().of(Role::Id));
  }
  void idAndName() const {
    id();
    if (v_.fills()) of_.name = of_.id;
    (*this)(&T::name, "name", "Name", "What people call it; without one, its id.",
        About{}.unkeyed().of(Role::Name).upTo(limits::nameBytes));
  }
  /// A switch that is on where nothing is said; written where it is off, or always.
  void on(bool T::*member, bool always = false) const {
    if (v_.fresh()) of_.*member = true;
    (*this)(member, "on", "On", "Off: kept in the file, out of the world.",
        About{}.when(always || !(of_.*member)));
  }

  /// A new one.
  static const T& usual() {
    static const T value{};
    return value;
  }

 private:
  Visitor& v_;
  T& of_;
};

/// There is no axis that is not one of two.
template <>
const ClimateAxis& MembersOf<ClimateAxis>::usual();

/// Makes a variant hold the alternative of an index, unless it does.
template <class... T>
void hold(std::variant<T...>& value, size_t index) {
  using Make = std::variant<T...> (*)();
  static constexpr Make kMake[] = {[]() -> std::variant<T...> { return T{}; }...};
  if (value.index() != index) value = kMake[index]();
}

/// Lets a visitor that changes nothing look at a value.
template <class T>
void look(Visitor& v, const T& value, const About& about = {}) {
  see(v, about, const_cast<T&>(value));
}

}  // namespace acre
