#include <algorithm>
#include <cmath>
#include <tuple>
#include <vector>

#include "base/hash.h"
#include "recipe/stages.h"
#include "reference/arithmetic.h"
#include "reference/evaluator.h"
#include "reference/trees.h"

// What objects are made of: every claim on a square of cells written down, then judged one by one.
namespace reference {
namespace {

constexpr int64_t kSide = 32;

}  // namespace

struct Evaluator::Claim {
  int rank;
  uint64_t id;
  size_t kind;
  std::string material;  ///< "open": opened.
  const std::vector<std::string>* over;
  bool cuts;
};

struct Evaluator::ClaimedSquare {
  std::map<std::tuple<int64_t, int64_t, int64_t>, std::vector<Claim>> claims;  // By x, z and y.
};

auto Evaluator::claimedIn(int64_t i, int64_t j) -> const ClaimedSquare& {
  auto& known = claimed_[{i, j}];
  if (known) return *known;
  const auto square = std::make_shared<ClaimedSquare>();
  const bool blocks = recipe_.frame.blocks();
  const acre::Rect cells{i * kSide, j * kSide, kSide, kSide};
  const acre::Objects& all = *recipe_.objects;
  int64_t far = 0;  // No sign lies farther from its anchor than its drawing is wide.
  for (const acre::ObjectPiece& piece : all.pieces)
    far = std::max(far, static_cast<int64_t>(
                            std::max(piece.layers[0].rows.size(), piece.layers[0].rows[0].size())));
  // No block of a tree either than it grows high and wide, leans and winds.
  for (const acre::TreeStyle& style : all.trees)
    far = std::max(far,
        static_cast<int64_t>(1.5 * style.radius + style.leafWide + 12 +
                             1.6 * style.height *
                                 (std::abs(style.lean) + std::abs(style.twist) +
                                     (style.wind.empty() ? 0.0 : 0.4) + (style.lies ? 1.0 : 0.0))));
  const acre::Rect about{
      cells.x - far, cells.z - far, cells.width + 2 * far, cells.length + 2 * far};
  for (const Object& object : objects(about)) {
    const acre::ObjectKind& kind = all.kinds[object.kind];
    std::string id = kind.piece, style = kind.tree;
    for (const acre::ObjectChoice& one : kind.what)
      if (one.id == object.choice && !(one.piece.empty() && one.tree.empty())) {
        id = one.piece;
        style = one.tree;
      }
    for (const acre::TreeStyle& tree : all.trees)
      if (tree.id == style) claimTree(tree, object, cells, *square);
    const auto drawn = std::find_if(all.pieces.begin(), all.pieces.end(),
        [&](const acre::ObjectPiece& piece) { return piece.id == id; });
    if (drawn == all.pieces.end()) continue;
    const acre::ObjectPiece& piece = *drawn;
    const auto rows = static_cast<int64_t>(piece.layers[0].rows.size());
    const auto wide = static_cast<int64_t>(piece.layers[0].rows[0].size());
    const int64_t ax = piece.anchor ? piece.anchor->x : wide / 2;
    const int64_t az = piece.anchor ? piece.anchor->z : rows / 2;
    for (int64_t row = 0; row < rows; ++row)
      for (int64_t column = 0; column < wide; ++column) {
        int64_t dx = column - ax, dz = row - az;
        if (piece.mirror && acre::combine(object.id, 4) >= 0x8000000000000000u) dx = -dx;
        for (int n = 0; piece.turns && n < object.turn; ++n) {
          const int64_t east = -dz;
          dz = dx;
          dx = east;
        }
        const acre::Cell at{object.cell.x + dx, object.cell.z + dz};
        if (!cells.contains(at)) continue;
        const auto signAt = [&](size_t k) {
          return piece.layers[k].rows[static_cast<size_t>(row)][static_cast<size_t>(column)];
        };
        const auto meant = [&](char sign) {
          for (const acre::PieceSign& one : piece.signs)
            if (one.sign[0] == sign) return one.material;
          return std::string("open");
        };
        const auto claim = [&](int64_t y, const std::string& material) {
          square->claims[{at.x, at.z, y}].push_back(
              {piece.cover ? 3 : 0, object.id, object.kind, material, &piece.over, piece.cuts});
        };
        if (!blocks) {
          for (size_t k = piece.layers.size(); k-- > 0;)
            if (const char sign = signAt(k); sign != '.' && sign != '_') {
              claim(0, meant(sign));
              break;
            }
          continue;
        }
        int64_t y = object.y;
        const auto layers = static_cast<int64_t>(piece.layers.size());
        if (kind.stands == acre::ObjectStand::CaveCeiling) {
          // The highest layer is nearest to what it hangs from.
          for (int64_t k = 0; k < layers; ++k)
            if (const char sign = signAt(static_cast<size_t>(k)); sign != '.')
              claim(y + piece.sink - (layers - 1 - k), meant(sign));
          continue;
        }
        if (piece.follow && kind.stands == acre::ObjectStand::Ground) {
          const auto [level, on, wet] = topOf(at);
          if (on.empty()) continue;
          y = level;
        }
        for (size_t k = 0; k < piece.layers.size(); ++k)
          if (const char sign = signAt(k); sign != '.')
            claim(y + static_cast<int64_t>(k) - piece.sink, meant(sign));
        if (const char sign = signAt(0); sign != '.' && sign != '_')
          for (int64_t n = 1; n <= piece.fill; ++n) claim(y - piece.sink - n, meant(sign));
      }
  }
  known = square;
  return *known;
}

bool Evaluator::madeOfNothing() const {
  return recipe_.objects->pieces.empty() && recipe_.objects->trees.empty();
}

void Evaluator::claimTree(const acre::TreeStyle& style, const Object& object,
    const acre::Rect& cells, ClaimedSquare& square) {
  const bool blocks = recipe_.frame.blocks();
  acre::Cell foot = object.cell;
  if (recipe_.frame.kind == acre::WorldKind::Side) foot.z = 0;
  int wind = 0;
  if (!style.wind.empty()) {
    float f = field(style.wind, foot);
    f = f < 0 ? 0 : f > 1 ? 1 : f;
    wind = static_cast<int>(std::floor(3 * f + 0.5f));
  }
  const int sixteenth = (static_cast<int>(std::floor(style.toward / 22.5 + 0.5)) + 12) % 16;
  const uint64_t variant =
      style.variants == 0 ? object.id
                          : acre::combine(object.id, 6) % static_cast<uint64_t>(style.variants);
  const bool hangs = recipe_.objects->kinds[object.kind].stands == acre::ObjectStand::CaveCeiling;
  auto& known = grown_[{style.id, variant, wind}];
  if (!known)
    known = std::make_shared<const TreeCells>(
        treeBlocks(style, seed_, variant, wind, wind > 0 ? sixteenth % 4 : 0));
  const TreeCells& grown = *known;
  const int quarters = wind > 0 ? sixteenth / 4 : object.turn;
  const bool mirrored = wind == 0 && acre::combine(object.id, 4) >= 0x8000000000000000u;
  std::map<std::pair<int64_t, int64_t>, std::pair<int64_t, bool>> highest;  // By x and z.
  const auto claim = [&](int64_t x, int64_t y, int64_t z, bool leaf) {
    int64_t dx = mirrored ? -x : x, dz = z;
    for (int n = 0; n < quarters; ++n) {
      const int64_t east = -dz;
      dz = dx;
      dx = east;
    }
    const acre::Cell at{object.cell.x + dx, object.cell.z + dz};
    if (cells.contains(at))
      square.claims[{at.x, at.z, y}].push_back({leaf ? 2 : 1, object.id, object.kind,
          leaf ? style.leaf : style.wood, &style.over, false});
  };
  for (const auto& [at, leaf] : grown) {
    const auto [x, y, z] = at;
    if (blocks) {
      claim(x, object.y + (hangs ? -y : y), z, leaf);
      continue;
    }
    const auto [known, fresh] = highest.try_emplace({x, z}, y, leaf);
    if (!fresh && y > known->second.first) known->second = {y, leaf};
  }
  for (const auto& [at, top] : highest) {
    const auto foots = grown.find({at.first, 0, at.second});
    claim(at.first, 0, at.second, foots != grown.end() && !foots->second ? false : top.second);
  }
}

std::string Evaluator::withObjects(acre::Cell cell, int64_t y, const std::string& made) {
  if (!acre::takesPart(recipe_, acre::StageId::Objects) || madeOfNothing()) return made;
  const bool blocks = recipe_.frame.blocks();
  const ClaimedSquare& square = claimedIn(floorOf(cell.x, kSide), floorOf(cell.z, kSide));
  const auto found = square.claims.find({cell.x, cell.z, blocks ? y : 0});
  if (found == square.claims.end()) return made;
  if (isLevel() && !freeFloor(cell)) return made;
  const auto material = std::find_if(recipe_.materials.begin(), recipe_.materials.end(),
      [&](const acre::Material& m) { return m.id == made; });
  const bool gives = made == "open" || (material != recipe_.materials.end() &&
                                           material->state == acre::MaterialState::Liquid);
  const Claim* best = nullptr;
  for (const Claim& one : found->second) {
    const bool named = std::find(one.over->begin(), one.over->end(), made) != one.over->end();
    if (!(blocks ? gives || named || one.cuts : named || one.over->empty())) continue;
    if (!best || std::tie(one.rank, one.id, one.kind) < std::tie(best->rank, best->id, best->kind))
      best = &one;
  }
  return best ? best->material : made;
}

bool Evaluator::claimedColumn(acre::Cell cell) {
  if (!acre::takesPart(recipe_, acre::StageId::Objects) || madeOfNothing()) return false;
  const auto& claims = claimedIn(floorOf(cell.x, kSide), floorOf(cell.z, kSide)).claims;
  const auto first = claims.lower_bound({cell.x, cell.z, INT64_MIN});
  return first != claims.end() && std::get<0>(first->first) == cell.x &&
         std::get<1>(first->first) == cell.z;
}

}  // namespace reference
