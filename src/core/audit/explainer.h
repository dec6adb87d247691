/// How a plumb line is told; for its own parts alone.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "audit/explain.h"
#include "audit/plumb.h"
#include "world/block_value.h"

namespace acre {

/// Tells a sink of a cell; each stage is a function of its own: those of the column, of blocks and
/// levels, and of objects have a file each.
class Explainer {
 public:
  Explainer(const Plumb& plumb, PlumbSink& sink) : p_(plumb), sink_(sink) {}

  void all() {
    place();
    heights();
    climate();
    if (p_.biome.on) biomes();
    if (p_.water) water();
    strata();
    if (p_.block) block();
    if (p_.level) level();
    last();
    if (p_.part) ofObject();
    if (!p_.objects.empty()) objects();
    if (!p_.tiles.empty()) tiles();
  }

 private:
  enum Weight : uint8_t { Plain, Folds, Decides };
  /// What is said while it is there stands within the part.
  class Part {
   public:
    Part(PlumbSink& sink, std::string_view name, bool list = false) : sink_(sink) {
      sink_.open(name, list);
    }
    ~Part() { sink_.close(); }
    Part(const Part&) = delete;
    Part& operator=(const Part&) = delete;

   private:
    PlumbSink& sink_;
  };
  Part part(std::string_view name) const { return {sink_, name}; }
  Part member() const { return {sink_, {}}; }
  Part list(std::string_view name) const { return {sink_, name, true}; }

  /// Whole numbers and those of single precision are told with all their digits.
  template <class T>
  void value(std::string_view name, const T& v) const {
    if constexpr (std::is_same_v<T, bool> || !std::is_arithmetic_v<T>)
      sink_.value(name, v);
    else
      sink_.value(name, std::conditional_t<std::is_integral_v<T>, int64_t, double>(v));
  }
  void row(std::optional<StageId> stage, std::string label, std::string told, std::string note,
      std::string pointer, Weight weight = Plain, bool folds = false) const {
    sink_.row({stage, std::move(label), std::move(told), std::move(note), std::move(pointer),
        weight == Decides, folds || weight == Folds});
  }
  void beside(std::string label, std::string text, bool telling = true) const {
    sink_.beside(std::move(label), std::move(text), telling);
  }
  static Weight decidesIf(bool decides, Weight otherwise = Plain) {
    return decides ? Decides : otherwise;
  }

  void layers(StageId stage, const std::vector<PlumbLayer>& layers, bool compared) const;
  void margins(const std::vector<PlumbMargin>& margins) const;
  void relief(const ReliefAt& relief) const;
  void place() const;
  void heights() const;
  void climate() const;
  void biomes() const;
  void region() const;
  void water() const;
  std::string unmoved() const;
  void strata() const;
  void block() const;
  void strataOf(const PlumbBlock& block, bool decided) const;
  void caves(const PlumbBlock& block, bool lined) const;
  void held(const PlumbBlock& block) const;
  void level() const;
  void last() const;
  void ofObject() const;
  void tree(const PlumbPart& of) const;
  void objects() const;
  void tiles() const;
  void conditions(const PlumbObject& one) const;
  void contest(const PlumbObject& one) const;

  /// What stands there, or what was changed by hand, decides after the ground.
  bool later() const { return p_.edited || p_.part || (p_.block && p_.block->at.edited); }
  /// Blocks and floors decide after everything of their column.
  bool columnDecides() const {
    return p_.outside || !(p_.block || p_.level || p_.part || (p_.water && p_.water->shown));
  }
  bool uncovered() const { return p_.biome.on && p_.biome.biome == "none"; }

  const Plumb& p_;
  PlumbSink& sink_;
};

}  // namespace acre
