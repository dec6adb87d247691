#include "world/object_cells.h"

#include <algorithm>
#include <map>
#include <tuple>

#include "cave/level_stage.h"
#include "recipe/object_recipe.h"
#include "strata/blocks.h"

namespace acre {
namespace {

/// Samples along one side of what is asked for at a time, so that little is held.
constexpr int32_t kPart = 256;

std::shared_ptr<const Piece> pieceNamed(
    const Objects& objects, const std::string& id, const WorldPlan& plan) {
  for (const ObjectPiece& piece : objects.pieces)
    if (piece.id == id)
      return std::make_shared<const Piece>(piece, plan.recipe().materials, plan.layout().blocks());
  return nullptr;
}

bool sameCell(const CellClaim& a, const CellClaim& b) {
  return a.cell == b.cell && a.y == b.y;
}

/// Calls visit(first, last) with the claims on each cell.
template <class Visit>
void eachCell(std::span<const CellClaim> claims, Visit&& visit) {
  for (size_t n = 0; n < claims.size();) {
    size_t end = n + 1;
    while (end < claims.size() && sameCell(claims[n], claims[end])) ++end;
    visit(claims.data() + n, claims.data() + end);
    n = end;
  }
}

}  // namespace

ObjectCells::ObjectCells(const WorldPlan& plan, const ObjectPass& objects)
    : plan_(plan), objects_(objects) {
  if (!objects.any()) return;
  const Objects& recipe = *plan.recipe().objects;
  std::map<std::string, std::shared_ptr<const Piece>> made;
  const auto named = [&](const std::string& id) {
    const auto [at, fresh] = made.try_emplace(id);
    if (fresh) at->second = pieceNamed(recipe, id, plan);
    return at->second;
  };
  for (size_t k = 0; k < recipe.kinds.size(); ++k) {
    const ObjectKind& kind = recipe.kinds[k];
    if (!kind.on) continue;
    Kind out{k, {}};
    out.inCaves = kind.stands != ObjectStand::Ground;
    out.hangs = kind.stands == ObjectStand::CaveCeiling;
    for (const ObjectChoice& one : kind.what)
      out.pieces.push_back(named(one.piece.empty() ? kind.piece : one.piece));
    if (out.pieces.empty()) out.pieces.push_back(named(kind.piece));
    for (const auto& piece : out.pieces)
      if (piece) out.reach = std::max(out.reach, piece->reach());
    if (std::none_of(out.pieces.begin(), out.pieces.end(), [](const auto& p) { return p; }))
      continue;
    reach_ = std::max(reach_, out.reach);
    kinds_.push_back(std::move(out));
  }
}

const Piece* ObjectCells::pieceOf(const Kind& kind, const PlacedObject& object) const {
  const size_t n = object.choice == PlacedObject::kPlain ? 0 : object.choice;
  return kind.pieces[n].get();
}

template <class Visit>
bool ObjectCells::each(const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop,
    Visit&& visit) const {
  if (cells.empty()) return true;
  const bool blocks = plan_.layout().blocks();
  std::vector<CellClaim> claims;
  std::vector<Cell> columns;
  for (const Kind& kind : kinds_) {
    const auto put = [&](const Judged& one) {
      if (one.refusal != Refusal::None) return;
      const PlacedObject object = objects_.objectOf(kind.kind, one);
      const Piece* piece = pieceOf(kind, object);
      if (!piece) return;
      const bool follows = piece->follows() && !kind.inCaves;
      const int64_t level = object.y + (blocks && kind.hangs ? piece->hanging() : 0);
      if (blocks && !follows && (level + piece->lowest() >= high || level + piece->highest() < low))
        return;
      const Rect about = grown({object.cell.x, object.cell.z, 1, 1}, piece->reach());
      if (intersection(about, cells).empty()) return;
      claims.clear();
      columns.clear();
      for (const PieceCell& drawn : piece->cells()) {
        const PieceCell cell = piece->placed(drawn, object.turn, object.mirrored);
        const Cell at{object.cell.x + cell.x, object.cell.z + cell.z};
        if (!cells.contains(at) || (kind.hangs && cell.y < piece->foot())) continue;
        claims.push_back({at, blocks ? level + cell.y : 0, cell.material, piece->rank(),
            object.kind, object.id, piece});
        columns.push_back(at);
      }
      if (blocks && follows) {
        const std::vector<GroundTop> tops = objects_.ground().tops(columns, true);
        for (size_t n = 0; n < claims.size(); ++n)
          claims[n].y = tops[n].y == GroundTop::kNone ? high : claims[n].y - level + tops[n].y;
      }
      for (const CellClaim& claim : claims)
        if (!blocks || (claim.y >= low && claim.y < high)) visit(object, claim);
    };
    if (!objects_.judged(kind.kind, grown(cells, kind.reach), put, stop)) return false;
  }
  return true;
}

std::optional<std::vector<CellClaim>> ObjectCells::claims(
    const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop) const {
  std::vector<CellClaim> out;
  if (!each(cells, low, high, stop,
          [&](const PlacedObject&, const CellClaim& claim) { out.push_back(claim); }))
    return {};
  const auto order = [](const CellClaim& c) {
    return std::tuple(c.cell.z, c.cell.x, c.y, c.rank, c.id, c.kind);
  };
  std::sort(out.begin(), out.end(),
      [&](const CellClaim& a, const CellClaim& b) { return order(a) < order(b); });
  return out;
}

void ObjectCells::apply(
    std::span<const CellClaim> claims, int64_t first, std::span<MaterialIndex> column) const {
  eachCell(claims, [&](const CellClaim* from, const CellClaim* to) {
    MaterialIndex& made = column[static_cast<size_t>(from->y - first)];
    if (const CellClaim* won = winner(from, to, made)) made = won->material;
  });
}

const CellClaim* ObjectCells::winner(
    const CellClaim* first, const CellClaim* last, MaterialIndex made) const {
  const LevelStage* level = plan_.level();
  if (level && first != last && (!level->isOpen(first->cell) || level->placeAt(first->cell) >= 0))
    return nullptr;
  const bool liquid = plan_.parts().blocks && plan_.parts().blocks->isLiquid(made);
  const auto* found = std::find_if(
      first, last, [&](const CellClaim& claim) { return claim.piece->takes(made, liquid); });
  return found == last ? nullptr : found;
}

std::optional<std::vector<PlacedObject>> ObjectCells::reaching(
    const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop) const {
  std::vector<PlacedObject> out;
  if (!each(cells, low, high, stop, [&](const PlacedObject& object, const CellClaim&) {
        if (out.empty() || out.back() != object) out.push_back(object);
      }))
    return {};
  std::sort(out.begin(), out.end(), [](const PlacedObject& a, const PlacedObject& b) {
    return std::tuple(a.kind, a.cell.z, a.cell.x) < std::tuple(b.kind, b.cell.z, b.cell.x);
  });
  return out;
}

Status ObjectCells::apply(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride,
    const std::stop_token& stop) const {
  if (!any(grid.step) || plan_.layout().blocks()) return done();
  const auto part = [&](int32_t i0, int32_t j0) -> Status {
    const int64_t wide = std::min(kPart, grid.width - i0), rows = std::min(kPart, grid.length - j0);
    const Rect cells{grid.x + i0 * grid.step, grid.z + j0 * grid.step, (wide - 1) * grid.step + 1,
        (rows - 1) * grid.step + 1};
    const auto found = claims(cells, 0, 1, stop);
    if (!found) return cancelled();
    eachCell(*found, [&](const CellClaim* first, const CellClaim* last) {
      const int64_t x = first->cell.x - grid.x, z = first->cell.z - grid.z;
      if (x % grid.step != 0 || z % grid.step != 0) return;
      MaterialIndex& made = materials[z / grid.step * stride + x / grid.step];
      if (const CellClaim* won = winner(first, last, made)) made = won->material;
    });
    return done();
  };
  for (int32_t j = 0; j < grid.length; j += kPart)
    for (int32_t i = 0; i < grid.width; i += kPart)
      if (Status made = part(i, j); !made) return made;
  return done();
}

Status ObjectCells::apply(
    const SampleBlock& block, MaterialIndex* blocks, const std::stop_token& stop) const {
  if (!any(block.step) || !plan_.layout().blocks()) return done();
  const auto part = [&](int32_t i0, int32_t k0) -> Status {
    const int64_t wide = std::min(kPart, block.width - i0),
                  rows = std::min(kPart, block.length - k0);
    const Rect cells{block.x + i0 * block.step, block.z + k0 * block.step,
        (wide - 1) * block.step + 1, (rows - 1) * block.step + 1};
    const auto found = claims(cells, block.y, block.y + (block.height - 1) * block.step + 1, stop);
    if (!found) return cancelled();
    eachCell(*found, [&](const CellClaim* first, const CellClaim* last) {
      const int64_t x = first->cell.x - block.x, y = first->y - block.y,
                    z = first->cell.z - block.z;
      if (x % block.step != 0 || y % block.step != 0 || z % block.step != 0) return;
      MaterialIndex& made =
          blocks[(y / block.step * block.length + z / block.step) * block.width + x / block.step];
      if (const CellClaim* won = winner(first, last, made)) made = won->material;
    });
    return done();
  };
  for (int32_t k = 0; k < block.length; k += kPart)
    for (int32_t i = 0; i < block.width; i += kPart)
      if (Status made = part(i, k); !made) return made;
  return done();
}

Status ObjectCells::apply(int columns, const Cell* cells, const BlockLevels& levels,
    MaterialIndex* blocks, const std::stop_token& stop) const {
  if (!any(levels.step) || !plan_.layout().blocks()) return done();
  constexpr int kAtOnce = 32;  // Those of a line lie near each other.
  for (int from = 0; from < columns; from += kAtOnce) {
    const int to = std::min(columns, from + kAtOnce);
    Rect about{cells[from].x, cells[from].z, 1, 1};
    int64_t x1 = about.x, z1 = about.z;
    for (int i = from; i < to; ++i) {
      about.x = std::min(about.x, cells[i].x);
      about.z = std::min(about.z, cells[i].z);
      x1 = std::max(x1, cells[i].x);
      z1 = std::max(z1, cells[i].z);
    }
    about.width = x1 - about.x + 1;
    about.length = z1 - about.z + 1;
    constexpr int64_t kNear = 256;
    const bool near = about.width <= kNear && about.length <= kNear;
    std::optional<std::vector<CellClaim>> found;
    if (near && !(found = claims(about, levels.first, levels.top() + 1, stop))) return cancelled();
    for (int i = from; i < to; ++i) {
      if (!near &&
          !(found = claims({cells[i].x, cells[i].z, 1, 1}, levels.first, levels.top() + 1, stop)))
        return cancelled();
      auto first = std::lower_bound(
          found->begin(), found->end(), cells[i], [](const CellClaim& claim, Cell cell) {
            return std::pair(claim.cell.z, claim.cell.x) < std::pair(cell.z, cell.x);
          });
      while (first != found->end() && first->cell == cells[i]) {
        auto last = first + 1;
        while (last != found->end() && sameCell(*first, *last)) ++last;
        const int64_t y = first->y - levels.first;
        if (y % levels.step == 0) {
          MaterialIndex& made = blocks[y / levels.step * columns + i];
          if (const CellClaim* won = winner(&*first, &*first + (last - first), made))
            made = won->material;
        }
        first = last;
      }
    }
  }
  return done();
}

}  // namespace acre
