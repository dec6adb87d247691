/// What a plumb line found, told stage by stage.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <variant>

#include "audit/plumb.h"

namespace acre {

/// Hears what is told of a cell: every stage says each thing once, in all the forms that it is
/// asked for. The rows of a card, its JSON and the differences of two cells are sinks.
class PlumbSink {
 public:
  using Value = std::variant<bool, int64_t, double, std::string, std::array<int64_t, 2>,
      std::array<double, 2>>;
  virtual ~PlumbSink() = default;

  /// A line of the card.
  virtual void row(PlumbRow) {}
  /// What is set beside another cell's, in words. telling: false where it says no more than what
  /// follows; then it is left out unless the other cell's tells.
  virtual void beside(std::string, std::string, bool telling) { (void)telling; }
  /// A value by its name, within the parts that are open.
  virtual void value(std::string_view, Value) {}
  /// A part of that name, or the next member of a list; lists have no names within.
  virtual void open(std::string_view, bool list) { (void)list; }
  virtual void close() {}
};

/// All that there is to tell of a cell, from the first stage to the last.
void explain(const Plumb& plumb, PlumbSink& sink);

}  // namespace acre
