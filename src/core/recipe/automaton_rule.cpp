#include "recipe/automaton_rule.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <optional>
#include <string_view>

namespace acre {
namespace {

/// Counts of one half of a rule; nothing when they cannot be read.
std::optional<uint32_t> countsIn(std::string_view text, int neighbours) {
  uint32_t out = 0;
  if (neighbours == AutomatonRule::kPlane) {
    for (const char c : text) {
      if (c < '0' || c > '8' || (out >> (c - '0') & 1)) return {};
      out |= 1u << (c - '0');
    }
    return out;
  }
  const auto number = [&](std::string_view part) -> std::optional<int> {
    int value = 0;
    const auto read = std::from_chars(part.data(), part.data() + part.size(), value);
    if (part.empty() || read.ec != std::errc() || read.ptr != part.data() + part.size() ||
        value < 0 || value > neighbours)
      return {};
    return value;
  };
  while (!text.empty()) {
    const size_t comma = std::min(text.find(','), text.size());
    const std::string_view part = text.substr(0, comma);
    const size_t dash = part.find('-');
    std::optional<int> low, high = neighbours;
    if (part.starts_with('>')) {
      low = number(part.substr(1));
      if (low) ++*low;
    } else if (dash == std::string_view::npos) {
      low = high = number(part);
    } else {
      low = number(part.substr(0, dash));
      high = number(part.substr(dash + 1));
    }
    if (!low || !high || *low > *high) return {};
    for (int n = *low; n <= *high; ++n) out |= 1u << n;
    const bool more = comma < text.size();
    text.remove_prefix(std::min(comma + 1, text.size()));
    if (more && text.empty()) return {};
  }
  return out;
}

std::string countsText(uint32_t counts, int neighbours) {
  std::string out;
  for (int n = 0; n <= neighbours; ++n) {
    if (!(counts >> n & 1)) continue;
    if (neighbours == AutomatonRule::kPlane) {
      out += static_cast<char>('0' + n);
      continue;
    }
    int last = n;
    while (last < neighbours && counts >> (last + 1) & 1) ++last;
    if (!out.empty()) out += ",";
    out += last == n ? fmt::format("{}", n) : fmt::format("{}-{}", n, last);
    n = last;
  }
  return out;
}

}  // namespace

Result<AutomatonRule> readRule(const std::string& text, int neighbours, const std::string& where) {
  const auto refuse = [&] {
    return Error{Error::Code::InvalidInput, fmt::format("\"{:.60}\" is no rule", text), where,
        neighbours == AutomatonRule::kPlane
            ? "B and S with digits from 0 to 8, as in B678/S345678"
            : "B and S with counts from 0 to 26, as in B14-26/S13-26 or B>13/S>12"};
  };
  const size_t slash = text.find('/');
  if (slash == std::string::npos || !text.starts_with('B') || text.compare(slash + 1, 1, "S") != 0)
    return refuse();
  const std::string_view all = text;
  const auto birth = countsIn(all.substr(1, slash - 1), neighbours);
  const auto survival = countsIn(all.substr(slash + 2), neighbours);
  if (!birth || !survival || (*birth == 0 && *survival == 0)) return refuse();
  return AutomatonRule{*birth, *survival};
}

std::string ruleText(const AutomatonRule& rule, int neighbours) {
  return fmt::format(
      "B{}/S{}", countsText(rule.birth, neighbours), countsText(rule.survival, neighbours));
}

}  // namespace acre
