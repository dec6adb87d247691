#include "audit/object_checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "cave/level_stage.h"
#include "recipe/limits.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

/// Cells a side of what is looked at about the origin.
constexpr int64_t kLookedAt = 256;
/// Claims that say something.
constexpr size_t kEnough = 50;

struct Claimed {
  size_t claims = 0, hold = 0;
};

/// By kind; nothing when stopped.
std::optional<std::vector<Claimed>> claimsByKind(const World& world, const std::stop_token& stop) {
  std::vector<Claimed> out(world.recipe().objects->kinds.size());
  const Rect cells =
      intersection({-kLookedAt / 2, -kLookedAt / 2, kLookedAt, kLookedAt}, world.bounds());
  if (cells.empty()) return out;
  const bool blocks = world.layout().blocks();
  const auto claims = world.objectCells().claims(cells, stop);
  if (!claims) return {};
  std::vector<Cell> columns;
  for (const CellClaim& claim : *claims)
    if (columns.empty() || columns.back() != claim.cell) columns.push_back(claim.cell);
  std::vector<float> heights(columns.size());
  std::vector<BiomeIndex> biomes(columns.size());
  std::vector<WaterAt> waters(columns.size());
  std::vector<MaterialIndex> made(columns.size());
  if (!blocks)
    world.columns().generated(static_cast<int>(columns.size()), columns.data(), heights.data(),
        biomes.data(), made.data(), waters.data(), nullptr);
  size_t column = 0;
  for (const CellClaim& claim : *claims) {
    if (stop.stop_requested()) return {};
    while (columns[column] != claim.cell) ++column;
    MaterialIndex there = made[column];
    if (blocks && !world.ground().fill(1, &claim.cell, {claim.y, 1, 1}, &there)) return {};
    ++out[claim.kind].claims;
    out[claim.kind].hold += world.objectCells().winner(&claim, &claim + 1, there) != nullptr;
  }
  return out;
}

void checkWidths(const Recipe& recipe, std::vector<Check>& out) {
  for (size_t k = 0; k < recipe.objects->kinds.size(); ++k) {
    const ObjectKind& kind = recipe.objects->kinds[k];
    if (!kind.on || kind.must) continue;
    for (const ObjectPiece& piece : recipe.objects->pieces) {
      const bool used =
          kind.piece == piece.id || std::any_of(kind.what.begin(), kind.what.end(),
                                        [&](const ObjectChoice& c) { return c.piece == piece.id; });
      if (!used || piece.cover) continue;
      const auto& rows = piece.layers[0].rows;
      const auto wide = static_cast<int32_t>(std::max(rows.size(), rows[0].size()));
      if (wide <= kind.distance) continue;
      out.push_back({"overlapping-pieces",
          fmt::format("{}: \"{}\" is {} cells wide, and {} cells lie between two of them",
              kind.name, piece.name, wide, kind.distance),
          StageId::Objects, fmt::format("/objects/kinds/{}/distance", k), kind.id,
          "keep as many cells apart",
          [id = kind.id, wide](Recipe& r) {
            for (ObjectKind& of : r.objects->kinds)
              if (of.id == id)
                of.distance = std::min(wide, static_cast<int32_t>(limits::objectDistance.high));
          },
          {}});
      break;
    }
  }
}

bool checkWays(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  const LevelStage* level = world.level();
  if (!level || level->floor().places.empty()) return true;
  const auto claims = world.objectCells().claims(world.bounds(), stop);
  if (!claims) return false;
  const Recipe& recipe = world.recipe();
  // The floor as the solid cells of each kind leave it, and of all.
  const LevelFloor& floor = level->floor();
  std::vector<BitGrid> closed(recipe.objects->kinds.size() + 1, floor.plane);
  const Cell corner = level->cellOf(uint32_t{0});
  for (const CellClaim& claim : *claims) {
    const Material* material = world.catalogue().material(claim.material);
    if (!material || material->state != MaterialState::Solid) continue;
    if (!level->isOpen(claim.cell) || level->placeAt(claim.cell) >= 0) continue;
    for (BitGrid* plane : {&closed[claim.kind], &closed.back()})
      plane->set(static_cast<int32_t>(claim.cell.x - corner.x),
          static_cast<int32_t>(claim.cell.z - corner.z), true);  // Solid.
  }
  const FoundPlace& first = floor.places.front();
  const auto walkedOn = [&](const BitGrid& plane) { return stepsFrom(plane, first.x, first.z); };
  const auto before = walkedOn(floor.plane), after = walkedOn(closed.back());
  for (const FoundPlace& place : floor.places) {
    const auto at = static_cast<size_t>(place.z) * static_cast<size_t>(floor.plane.width()) +
                    static_cast<size_t>(place.x);
    if (before[at] < 0 || after[at] >= 0) continue;
    // The kind that alone closes it; else the first that closes anything.
    size_t kind = 0;
    while (kind + 1 < closed.size() && walkedOn(closed[kind])[at] >= 0) ++kind;
    if (kind + 1 == closed.size())
      for (kind = 0; closed[kind] == floor.plane;) ++kind;
    const Cell cell = level->cellOf(place);
    const LevelPlace& of = recipe.level->places[place.place];
    out.push_back({"way-blocked",
        fmt::format("{} stands in the only way to {}", recipe.objects->kinds[kind].name, of.name),
        StageId::Objects, fmt::format("/objects/kinds/{}", kind), recipe.objects->kinds[kind].id,
        "switch it off",
        [id = recipe.objects->kinds[kind].id](Recipe& r) {
          for (ObjectKind& one : r.objects->kinds)
            if (one.id == id) one.on = false;
        },
        cell});
  }
  return true;
}

}  // namespace

bool checkPieces(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  if (!world.objectCells().any()) return true;
  const Recipe& recipe = world.recipe();
  const auto claimed = claimsByKind(world, stop);
  if (!claimed) return false;
  for (size_t k = 0; k < claimed->size(); ++k)
    if ((*claimed)[k].claims >= kEnough && (*claimed)[k].hold == 0)
      out.push_back({"never-free",
          fmt::format("{}: none of {} cells of its piece is free where they would lie",
              recipe.objects->kinds[k].name, (*claimed)[k].claims),
          StageId::Objects, fmt::format("/objects/kinds/{}/piece", k), recipe.objects->kinds[k].id,
          {}, {}, {}});
  checkWidths(recipe, out);
  return checkWays(world, stop, out);
}

}  // namespace acre
