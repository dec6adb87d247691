/// Rules of cellular automata in B/S notation.
#pragma once

#include <cstdint>
#include <string>

#include "base/result.h"

namespace acre {

/// What lies beyond the edges of a bounded grid.
enum class GridEdge {
  Filled,  ///< Solid cells.
  Empty,   ///< Open cells.
  Left     ///< Nothing acts there: cells at the edge stay as they are.
};

/// Which numbers of solid neighbours make an open cell solid (birth) and keep a solid one solid
/// (survival): bit n of each for n neighbours. Cells of a plane have eight neighbours, those of a
/// volume 26; a cell is no neighbour of its own.
struct AutomatonRule {
  static constexpr int kPlane = 8;
  static constexpr int kVolume = 26;
  uint32_t birth = 0;
  uint32_t survival = 0;
  bool operator==(const AutomatonRule&) const = default;

  bool applies(bool solid, int count) const {
    return ((solid ? survival : birth) >> count & 1) != 0;
  }
};

/// A rule from its text: "B" and "S" with the counts of each behind it, joined by "/". In a plane
/// every digit is a count, as in "B678/S345678". In a volume counts and ranges stand in a row,
/// "B14-26/S13-26", "B5,7-9/S>12"; ">12" means all above it. neighbours: kPlane or kVolume. where:
/// named in errors.
Result<AutomatonRule> readRule(const std::string& text, int neighbours, const std::string& where);
/// Regular expressions that such texts match.
inline constexpr const char* kPlaneRulePattern =
    R"(^B(?![0-8]*([0-8])[0-8]*\1)[0-8]*/S(?![0-8]*([0-8])[0-8]*\2)[0-8]*(?<!B/S)$)";
inline constexpr const char* kVolumeRulePattern = R"(^B[0-9,>-]*/S[0-9,>-]*(?<!B/S)$)";
/// The shortest text that reads back as the rule.
std::string ruleText(const AutomatonRule& rule, int neighbours);

}  // namespace acre
