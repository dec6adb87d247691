#include "audit/tile_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <set>

#include "audit/tile_sets.h"
#include "recipe/json.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr int64_t kLookedFor = 512;  // Cells a side that the checks look at.

/// Those that anything but the tiles names.
std::set<std::string> namedMaterials(const Recipe& recipe) {
  Recipe rest = recipe;
  rest.materials.clear();
  *rest.tiles = {};
  rest.edits.reset();
  const std::string said = recipeToJson(rest);
  std::set<std::string> out;
  for (const Material& material : recipe.materials)
    if (said.find('"' + material.id + '"') != std::string::npos) out.insert(material.id);
  return out;
}

}  // namespace

std::vector<int> TileGroupFigures::byFrequency() const {
  std::vector<int> out;
  for (int n = 0; n < TileCases::kMost; ++n)
    if (cases[static_cast<size_t>(n)] > 0) out.push_back(n);
  std::stable_sort(out.begin(), out.end(), [this](int a, int b) {
    return cases[static_cast<size_t>(a)] > cases[static_cast<size_t>(b)];
  });
  return out;
}

std::optional<TileFigures> tileFigures(
    const World& world, const TileArts* arts, const Rect& area, const std::stop_token& stop) {
  constexpr int64_t kRows = 64;
  const auto begin = std::chrono::steady_clock::now();
  const TilePass& pass = world.tiles();
  TileFigures out;
  out.area = area;
  if (!pass.stage()) return out;
  const TileStage& stage = *pass.stage();
  for (int g = 0; g < stage.groups(); ++g) {
    out.groups.emplace_back();
    out.groups.back().group = stage.group(g).id;
    out.groups.back().set = stage.set(g).id;
  }
  for (int64_t row = 0; row < area.length; row += kRows) {
    const Rect part{area.x, area.z + row, area.width, std::min(kRows, area.length - row)};
    // Tiles between cells lie half on the next ones, which have some that hide them.
    const Rect beside = grown(part, 1), around = grown(beside, 1);
    std::vector<MaterialIndex> held(static_cast<size_t>(around.width * around.length));
    if (!pass.materials(around, held.data(), stop)) return {};
    const auto planes = pass.planesOf(
        beside,
        [&](const Rect& asked, MaterialIndex* to) {
          for (int64_t j = 0; j < asked.length; ++j)
            std::copy_n(held.data() + (asked.z - around.z + j) * around.width + asked.x - around.x,
                asked.width, to + j * asked.width);
          return done();
        },
        stop);
    if (!planes) return {};
    for (int64_t z = part.z; z < part.z + part.length; ++z)
      for (int64_t x = part.x; x < part.x + part.width; ++x) {
        const Cell cell{x, z};
        if (!pass.plane().contains(cell)) continue;
        ++out.cells;
        const MaterialIndex m =
            held[static_cast<size_t>((z - around.z) * around.width + x - around.x)];
        if (const uint8_t group = stage.classOf(m)) {
          ++out.groups[group - size_t{1}].cells;
          continue;
        }
        // Open space of a side world is meant to be empty.
        if (m == kOpen) continue;
        ++out.ungrouped;
        if (!out.firstUngrouped) out.firstUngrouped = cell;
      }
    std::optional<HiddenTiles> over;
    if (arts) over.emplace(*planes, stage, *arts);
    for (int g = 0; g < stage.groups(); ++g) {
      const bool between = stage.set(g).method == TileMethod::Corners;
      const bool whole = arts && arts->art(g).size == arts->art(g).cell;  // On its quarters.
      TileGroupFigures& of = out.groups[static_cast<size_t>(g)];
      const TileCases& cases = stage.cases(g);
      for (int64_t z = part.z; z < part.z + part.length; ++z)
        for (int64_t x = part.x; x < part.x + part.width; ++x) {
          const Cell cell{x, z};
          const uint16_t value = planes->at(g, cell);
          if (value == TileValue::kNone) continue;
          const auto picture = static_cast<size_t>(TileValue::picture(value));
          const auto number = static_cast<size_t>(cases.caseShown(value));
          ++of.tiles;
          if (of.cases[number]++ == 0) of.first[number] = cell;
          if (cases.ambiguous(static_cast<int>(number)) && of.ambiguous++ == 0)
            of.firstAmbiguous = cell;
          if (!arts) continue;
          if (whole) of.hidden += over->at(g, cell, between);
          const auto& pictures = arts->art(g).pictures;
          if (picture < pictures.size() && !pictures[picture].empty()) continue;
          if (of.unmatched++ == 0) of.firstUnmatched = cell;
          const auto n = static_cast<int>(number);
          if (std::find(of.unmatchedCases.begin(), of.unmatchedCases.end(), n) ==
              of.unmatchedCases.end())
            of.unmatchedCases.push_back(n);
        }
    }
  }
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  return out;
}

bool checkTiles(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  const TilePass& pass = world.tiles();
  if (!pass.stage()) return true;
  const TileStage& stage = *pass.stage();
  const Tiling& tiling = *world.recipe().tiles;
  const auto tell = [&](std::string id, std::string what, std::string pointer, std::string subject,
                        std::string mend = {}, std::function<void(Recipe&)> apply = {},
                        std::optional<Cell> place = {}) {
    out.push_back({std::move(id), std::move(what), StageId::Tiles, std::move(pointer),
        std::move(subject), std::move(mend), std::move(apply), place});
  };
  const auto arts = TileArts::of(world);
  if (!arts) {
    tell("lost-tiles", arts.error().text(), "/tiles/sets", {});
    return true;
  }
  const Rect home =
      intersection({-kLookedFor / 2, -kLookedFor / 2, kLookedFor, kLookedFor}, pass.plane());
  const Rect area = home.empty() ? middlePart(pass.plane(), kLookedFor) : home;
  const auto found = tileFigures(world, &*arts, area, stop);
  if (!found) return false;
  const std::string looked = fmt::format("{} x {} cells", area.width, area.length);
  for (size_t k = 0; k < tiling.sets.size(); ++k) {
    const TileSet& set = tiling.sets[k];
    int used = -1;
    for (int g = 0; g < stage.groups() && used < 0; ++g)
      if (stage.set(g).id == set.id) used = g;
    if (used < 0) continue;
    const std::string at = fmt::format("/tiles/sets/{}", k);
    const TileArt& art = arts->art(used);
    const TileSetReport report = reportOn(set, art);
    if (!report.offenders.empty()) {
      const TileOffender& worst = report.offenders.front();
      tell("open-rims",
          fmt::format("{}: {} pairs of its pictures do not meet; the worst is case {}, {} of whose "
                      "{} rims do not",
              set.name, report.rims.size(), worst.number, worst.faults, worst.rims),
          at, set.id);
    } else if (!report.variants.empty()) {
      tell("open-rims",
          fmt::format("{}: variant {} of case {} does not meet what its first picture does",
              set.name, report.variants.front().variant, report.variants.front().number),
          at, set.id);
    }
    if (const TileArt& first = arts->art(0); art.cell != first.cell)
      tell("tile-sizes",
          fmt::format("{}: a cell takes {} pixels, where that of \"{}\" takes {}", set.name,
              art.cell, stage.set(0).name, first.cell),
          at, set.id);
  }
  const std::set<std::string> named = namedMaterials(world.recipe());
  for (int g = 0; g < stage.groups(); ++g) {
    const TileGroupFigures& of = found->groups[static_cast<size_t>(g)];
    const TileGroup& group = stage.group(g);
    const std::string at = fmt::format("/tiles/groups/{}", stage.placeOf(g));
    if (of.unmatched > 0) {
      std::string cases;
      for (const int n : of.unmatchedCases)
        cases += fmt::format("{}{}", cases.empty() ? "" : ", ", n);
      tell("missing-tiles",
          fmt::format("{}: {} of {} tiles within {} have no picture, of case{} {}", group.name,
              of.unmatched, of.tiles, looked, of.unmatchedCases.size() == 1 ? "" : "s", cases),
          at, group.id, {}, {}, of.firstUnmatched);
    }
    // Where there is none of its own, what fills the ground below others is meant to be covered.
    if (of.cells > 0 && of.tiles > 0 && of.hidden == of.tiles)
      tell("hidden-tiles",
          fmt::format("{}: all of its {} tiles within {} lie under tiles of later groups that "
                      "cannot be seen through",
              group.name, of.tiles, looked),
          at, group.id, "draw it last", [id = group.id](Recipe& r) {
            auto& all = r.tiles->groups;
            const auto one = std::find_if(
                all.begin(), all.end(), [&](const TileGroup& other) { return other.id == id; });
            if (one != all.end()) std::rotate(one, one + 1, all.end());
          });
    // Elsewhere there may be some of what anything names.
    const bool own = std::any_of(group.materials.begin(), group.materials.end(),
        [&](const std::string& id) { return area != pass.plane() && named.contains(id); });
    if (of.cells == 0 && !own)
      tell("no-tiles",
          fmt::format("{}: none of its materials is there within {}", group.name, looked), at,
          group.id, "switch it off", [id = group.id](Recipe& r) {
            for (TileGroup& one : r.tiles->groups)
              if (one.id == id) one.on = false;
          });
  }
  if (found->ungrouped > 0)
    tell("no-group",
        fmt::format("{} of {} cells are of materials without a group: they are drawn in one colour",
            found->ungrouped, found->cells),
        "/tiles/groups", {}, {}, {}, found->firstUngrouped);
  return true;
}

}  // namespace acre
