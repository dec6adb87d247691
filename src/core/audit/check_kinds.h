/// What the checks are about.
#pragma once

#include <span>
#include <string_view>

namespace acre {

/// One of the known mistakes: its id, as Check::id has it, and what it is, for whoever meets it the
/// first time.
struct CheckKind {
  std::string_view id;
  std::string_view what;
};

/// All that runChecks() can find.
std::span<const CheckKind> checkKinds();

/// What a check is about; empty for an id that is none.
std::string_view whatIs(std::string_view id);

}  // namespace acre
