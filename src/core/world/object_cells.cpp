#include "world/object_cells.h"

#include <algorithm>
#include <array>
#include <bit>
#include <map>
#include <tuple>
#include <utility>

#include "cave/level_stage.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "strata/blocks.h"
#include "strata/material_index.h"

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

/// Calls visit(x, y, z, bits) with up to 64 blocks of a tree at a time, from (x, y, z) on, in some
/// cells and levels, until it returns false. foot: its y.
template <class Visit>
void eachRow(const ObjectTrees::Grown::Turned& tree, const PlacedObject& object, bool wood,
    const Rect& cells, int64_t low, int64_t high, int64_t foot, Visit&& visit) {
  constexpr int64_t kBits = 64;
  const int64_t north = cells.z - object.cell.z;
  tree.eachRow(tree.rows(wood, north, north + cells.length), [&](const TreeRow& row) {
    const int64_t y = foot + row.y;
    if (y < low || y >= high) return true;
    const int64_t x = object.cell.x + row.x, z = object.cell.z + row.z;
    const int64_t before = cells.x - x, within = cells.x + cells.width - x;
    if (before >= kBits || within <= 0) return true;
    uint64_t bits = row.bits;
    if (before > 0) bits = bits >> before << before;
    if (within < kBits) bits &= ~(~uint64_t{0} << within);
    return bits == 0 || visit(x, y, z, bits);
  });
}

}  // namespace

ObjectCells::ObjectCells(const WorldPlan& plan, const ObjectPass& objects, const MemoLimit& memo)
    : plan_(plan), objects_(objects), trees_(plan, memo) {
  if (!objects.any()) return;
  const Objects& recipe = *plan.recipe().objects;
  std::map<std::pair<std::string, std::string>, Made> known;
  const auto made = [&](const std::string& piece, const std::string& tree) {
    const auto [at, fresh] = known.try_emplace({piece, tree});
    if (fresh) at->second = {pieceNamed(recipe, piece, plan), {}, {}};
    for (size_t n = 0; fresh && !tree.empty() && n < recipe.trees.size(); ++n)
      if (const TreeStyle& style = recipe.trees[n]; style.id == tree)
        at->second = {
            std::make_shared<const Piece>(style, plan.recipe().materials, plan.layout().blocks()),
            n, reachOf(style)};
    return at->second;
  };
  for (size_t k = 0; k < recipe.kinds.size(); ++k) {
    const ObjectKind& kind = recipe.kinds[k];
    if (!kind.on) continue;
    Kind out{k, {}};
    out.inCaves = kind.stands != ObjectStand::Ground;
    out.hangs = kind.stands == ObjectStand::CaveCeiling;
    for (const ObjectChoice& one : kind.what) {
      const bool own = !one.piece.empty() || !one.tree.empty();
      out.made.push_back(own ? made(one.piece, one.tree) : made(kind.piece, kind.tree));
    }
    if (out.made.empty()) out.made.push_back(made(kind.piece, kind.tree));
    for (const Made& one : out.made)
      if (one.piece) out.reach = std::max({out.reach, one.piece->reach(), one.reach.aside});
    if (std::none_of(out.made.begin(), out.made.end(), [](const Made& m) { return m.piece; }))
      continue;
    reach_ = std::max(reach_, out.reach);
    kinds_.push_back(std::move(out));
  }
}

auto ObjectCells::madeOf(const Kind& kind, const PlacedObject& object) -> const Made& {
  return kind.made[object.choice == PlacedObject::kPlain ? 0 : object.choice];
}

std::optional<ObjectTrees::Grown> ObjectCells::grown(const PlacedObject& object) const {
  for (const Kind& kind : kinds_)
    if (kind.kind == object.kind)
      if (const Made& made = madeOf(kind, object); made.style)
        return trees_.grown(*made.style, object, kind.hangs);
  return {};
}

auto ObjectCells::farTrees(const Rect& cells, int64_t low, int64_t high,
    const std::stop_token& stop) const -> std::optional<std::vector<FarBox>> {
  struct Tree {
    PlacedObject object;
    size_t style;
  };
  std::vector<Tree> trees;
  for (const Kind& kind : kinds_) {
    const bool grows = std::any_of(kind.made.begin(), kind.made.end(),
        [](const Made& made) { return made.style.has_value(); });
    if (!grows || kind.inCaves) continue;
    const auto put = [&](const Judged& one) {
      if (one.y < low || one.y >= high) return;
      const PlacedObject object = objects_.objectOf(kind.kind, one);
      if (const Made& made = madeOf(kind, object); made.style)
        trees.push_back({object, *made.style});
    };
    if (!objects_.standing(kind.kind, cells, put, stop)) return {};
  }
  if (trees.size() > kMostFar) {
    std::nth_element(trees.begin(), trees.begin() + kMostFar, trees.end(),
        [](const Tree& a, const Tree& b) { return a.object.id < b.object.id; });
    trees.resize(kMostFar);
  }
  std::vector<FarBox> out;
  for (const auto& [object, style] : trees) {
    const ObjectTrees::Grown tree = trees_.grown(style, object, false);
    const ObjectTrees::Grown::Turned turned(tree);
    const TreeStyle& of = plan_.recipe().objects->trees[style];
    const auto& materials = plan_.recipe().materials;
    bool leafSeen = false, woodSeen = false;
    for (const TreeBox& box : tree.stamp->boxes) {
      const int lastX = box.x1 - 1, lastZ = box.z1 - 1;
      const auto [x0, x1] = std::minmax({turned.x(box.x0, box.z0), turned.x(lastX, lastZ)});
      const auto [z0, z1] = std::minmax({turned.z(box.x0, box.z0), turned.z(lastX, lastZ)});
      out.push_back({object.cell.x + x0, int64_t{object.y} + box.y0, object.cell.z + z0,
          object.cell.x + x1 + 1, int64_t{object.y} + box.y1, object.cell.z + z1 + 1,
          indexOf(materials, box.leaf ? of.leaf : of.wood),
          !std::exchange(box.leaf ? leafSeen : woodSeen, true)});
    }
  }
  return out;
}

template <class Planted, class Drawn>
bool ObjectCells::eachMade(const Rect& cells, int64_t low, int64_t high,
    const std::stop_token& stop, Planted&& planted, Drawn&& drawn) const {
  if (cells.empty()) return true;
  const bool blocks = plan_.layout().blocks();
  std::vector<CellClaim> claims;
  std::vector<Cell> columns;
  for (const Kind& kind : kinds_) {
    const auto put = [&](const Judged& one) {
      const PlacedObject object = objects_.objectOf(kind.kind, one);
      const Made& made = madeOf(kind, object);
      const Piece* piece = made.piece.get();
      if (!piece) return;
      const Rect about = acre::grown(
          {object.cell.x, object.cell.z, 1, 1}, std::max(piece->reach(), made.reach.aside));
      if (intersection(about, cells).empty()) return;
      if (made.style) {
        const int64_t up = kind.hangs ? made.reach.down : made.reach.up;
        const int64_t down = kind.hangs ? made.reach.up : made.reach.down;
        if (!blocks || (object.y - down < high && object.y + up >= low))
          planted(object, kind, made);
        return;
      }
      const bool follows = piece->follows() && !kind.inCaves;
      const int64_t level = object.y + (blocks && kind.hangs ? piece->hanging() : 0);
      if (blocks && !follows && (level + piece->lowest() >= high || level + piece->highest() < low))
        return;
      claims.clear();
      columns.clear();
      for (const PieceCell& cellDrawn : piece->cells()) {
        const PieceCell cell = piece->placed(cellDrawn, object.turn, object.mirrored);
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
        if (!blocks || (claim.y >= low && claim.y < high)) drawn(object, claim);
    };
    if (!objects_.standing(kind.kind, acre::grown(cells, kind.reach), put, stop)) return false;
  }
  return true;
}

template <class Visit>
bool ObjectCells::each(const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop,
    Visit&& visit) const {
  const bool blocks = plan_.layout().blocks();
  const auto planted = [&](const PlacedObject& object, const Kind& kind, const Made& made) {
    const auto tree = trees_.grown(*made.style, object, kind.hangs);
    const ObjectTrees::Grown::Turned turned(tree);
    for (const bool wood : {true, false})
      eachRow(turned, object, wood, cells, blocks ? low : 0, blocks ? high : 1,
          blocks ? object.y : 0, [&](int64_t x, int64_t y, int64_t z, uint64_t bits) {
            const CellClaim claim{{x, z}, y, wood ? tree.stamp->wood : tree.stamp->leaf,
                wood ? ObjectTrees::kWoodRank : ObjectTrees::kLeafRank, object.kind, object.id,
                made.piece.get()};
            for (; bits != 0; bits &= bits - 1) {
              CellClaim one = claim;
              one.cell.x += std::countr_zero(bits);
              visit(object, one);
            }
            return true;
          });
  };
  return eachMade(cells, low, high, stop, planted, visit);
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
  const bool blocks = plan_.layout().blocks();
  const auto planted = [&](const PlacedObject& object, const Kind& kind, const Made& made) {
    const auto tree = trees_.grown(*made.style, object, kind.hangs);
    const ObjectTrees::Grown::Turned turned(tree);
    bool reaches = false;
    for (const bool wood : {true, false})
      if (!reaches)
        eachRow(turned, object, wood, cells, blocks ? low : 0, blocks ? high : 1,
            blocks ? object.y : 0,
            [&](int64_t, int64_t, int64_t, uint64_t) { return !(reaches = true); });
    if (reaches) out.push_back(object);
  };
  const auto drawn = [&](const PlacedObject& object, const CellClaim&) {
    if (out.empty() || out.back() != object) out.push_back(object);
  };
  if (!eachMade(cells, low, high, stop, planted, drawn)) return {};
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
  for (int32_t k0 = 0; k0 < block.length; k0 += kPart)
    for (int32_t i0 = 0; i0 < block.width; i0 += kPart) {
      const int64_t wide = std::min(kPart, block.width - i0),
                    rows = std::min(kPart, block.length - k0);
      const Rect cells{block.x + i0 * block.step, block.z + k0 * block.step,
          (wide - 1) * block.step + 1, (rows - 1) * block.step + 1};
      if (Status made = applyPart(block, cells, blocks, stop); !made) return made;
    }
  return done();
}

namespace {

/// Puts what objects are made of into a part of a block, the best of all claims that hold first: a
/// cell that is taken is done with. Cells are bits until the last of them is known.
class BlockStamper {
 public:
  /// cells: the part, from a sample to a sample. All others stay as they are.
  BlockStamper(const SampleBlock& block, const Rect& cells, const BlockStage& materials,
      MaterialIndex* blocks)
      : block_(block),
        cells_(cells),
        materials_(materials),
        blocks_(blocks + (cells.z - block.z) / block.step * block.width +
                (cells.x - block.x) / block.step),
        wide_((cells.width - 1) / block.step + 1),
        rows_((cells.length - 1) / block.step + 1),
        perRow_((wide_ - 1) / kBits + 1),
        words_(static_cast<size_t>(perRow_ * rows_ * block.height)),
        met_(static_cast<size_t>(rows_ * block.height), 0) {}

  void put(const CellClaim& claim) {
    const int64_t i = sampleOf(claim.cell.x - cells_.x, wide_);
    const int64_t k = sampleOf(claim.cell.z - cells_.z, rows_);
    const int64_t j = sampleOf(claim.y - block_.y, block_.height);
    if (i >= 0 && j >= 0 && k >= 0)
      put(*claim.piece, claim.piece->takes(kOpen, false), j, k, i / kBits, uint64_t{1} << i % kBits,
          planeOf(claim.material));
  }
  /// wood: its wood; else its leaves.
  void put(
      const Piece& piece, const PlacedObject& object, const ObjectTrees::Grown& tree, bool wood) {
    const ObjectTrees::Grown::Turned turned(tree);
    const int64_t x = object.cell.x - cells_.x, y = object.y - block_.y,
                  z = object.cell.z - cells_.z;
    const bool open = piece.takes(kOpen, false);
    const auto rows = turned.rows(wood, -z, cells_.length - z);
    if (rows.empty()) return;
    uint64_t* plane = planeOf(wood ? tree.stamp->wood : tree.stamp->leaf);
    if (block_.step == 1 && perRow_ == 1) {
      turned.eachRow(rows, [&](const TreeRow& row) {
        const int64_t j = y + row.y, shift = x + row.x;
        if (j >= 0 && j < block_.height && shift > -kBits && shift < kBits)
          take(piece, open, j, z + row.z, 0, shift < 0 ? row.bits >> -shift : row.bits << shift,
              plane);
        return true;
      });
      return;
    }
    turned.eachRow(rows, [&](const TreeRow& row) {
      const int64_t j = sampleOf(y + row.y, block_.height), k = sampleOf(z + row.z, rows_);
      if (j < 0 || k < 0) return true;
      const Bits at = samplesOf(x + row.x, row.bits);
      const int64_t word = floorDiv(at.first, kBits);
      const int64_t shift = at.first - word * kBits;
      put(piece, open, j, k, word, at.bits << shift, plane);
      if (shift != 0) put(piece, open, j, k, word + 1, at.bits >> (kBits - shift), plane);
      return true;
    });
  }
  /// The last of all: their materials.
  void finish() {
    for (const auto& [material, bits] : planes_)
      for (int64_t j = 0, n = 0; j < block_.height; ++j)
        for (int64_t k = 0; k < rows_; ++k)
          for (int64_t word = 0; word < perRow_; ++word, ++n)
            if (const uint64_t of = bits[static_cast<size_t>(n)]; of != 0)
              fill(rowOf(j, k) + word * kBits, wide_ - word * kBits, of, material);
  }

 private:
  /// Samples beside each other, from the lowest bit on.
  struct Word {
    uint64_t open = 0, taken = 0;
  };
  static constexpr int64_t kBits = 64;
  /// Bits that are spread over as many samples at a time: for each, all of it or nothing.
  static constexpr int kSpread = 8;
  static constexpr auto kMasks = [] {
    std::array<std::array<uint16_t, kSpread>, 1 << kSpread> out{};
    for (size_t bits = 0; bits < out.size(); ++bits)
      for (size_t i = 0; i < kSpread; ++i) out[bits][i] = bits >> i & 1 ? 0xFFFF : 0;
    return out;
  }();

  /// Which sample lies so many cells on; -1: none.
  int64_t sampleOf(int64_t cells, int64_t count) const {
    if (block_.step != 1) {
      if (cells % block_.step != 0) return -1;
      cells /= block_.step;
    }
    return cells >= 0 && cells < count ? cells : -1;
  }
  MaterialIndex* rowOf(int64_t j, int64_t k) {
    return blocks_ + (j * block_.length + k) * block_.width;
  }
  /// The words of a row, whose open samples are looked up when it is first asked for.
  Word* wordsOf(int64_t j, int64_t k) {
    const int64_t row = j * rows_ + k;
    Word* words = words_.data() + row * perRow_;
    if (met_[static_cast<size_t>(row)]) return words;
    met_[static_cast<size_t>(row)] = 1;
    const MaterialIndex* made = rowOf(j, k);
    // Most rows are alike from end to end.
    if (std::equal(made + 1, made + wide_, made)) {
      if (*made == kOpen)
        for (int64_t word = 0; word < perRow_; ++word) words[word].open = ~uint64_t{0};
      return words;
    }
    for (int64_t i = 0; i < wide_; ++i)
      words[i / kBits].open |= uint64_t{made[i] == kOpen} << i % kBits;
    return words;
  }
  /// Puts a material wherever there is a bit, from a sample on that so many are left from.
  static void fill(MaterialIndex* row, int64_t left, uint64_t bits, MaterialIndex material) {
    for (; bits != 0; bits >>= kSpread, row += kSpread, left -= kSpread) {
      const auto some = static_cast<uint8_t>(bits);
      if (some == 0) continue;
      if (left < kSpread) {
        for (int i = 0; i < left; ++i)
          if (bits >> i & 1) row[i] = material;
        return;
      }
      const auto& mask = kMasks[some];
      for (size_t i = 0; i < kSpread; ++i)
        row[i] = static_cast<MaterialIndex>((row[i] & ~mask[i]) | (material & mask[i]));
    }
  }
  struct Bits {
    int64_t first;  ///< What the lowest bit is for.
    uint64_t bits;
  };
  /// Bits of cells that follow one, as bits of the samples among them.
  Bits samplesOf(int64_t cell, uint64_t bits) const {
    if (block_.step == 1) return {cell, bits};
    Bits out{floorDiv(cell, block_.step), 0};
    for (; bits != 0; bits &= bits - 1) {
      const int64_t at = cell + std::countr_zero(bits);
      if (at % block_.step == 0) out.bits |= uint64_t{1} << (at / block_.step - out.first);
    }
    return out;
  }
  /// Samples of a row that have a bit of one of its words, if there is such a word and one of them.
  void put(const Piece& piece, bool open, int64_t j, int64_t k, int64_t word, uint64_t bits,
      uint64_t* plane) {
    if (bits != 0 && word >= 0 && word < perRow_) take(piece, open, j, k, word, bits, plane);
  }
  /// Of a word that is there. open: the piece takes what is open. plane: of what they are made of.
  void take(const Piece& piece, bool open, int64_t j, int64_t k, int64_t word, uint64_t bits,
      uint64_t* plane) {
    const int64_t beyond = std::max(int64_t{0}, (word + 1) * kBits - wide_);
    Word& of = wordsOf(j, k)[word];
    bits &= ~of.taken & ~uint64_t{0} >> beyond;
    uint64_t takes = open ? bits & of.open : 0;
    if (bits != takes) takes |= takesMade(piece, rowOf(j, k) + word * kBits, bits & ~takes);
    of.taken |= takes;
    plane[(j * rows_ + k) * perRow_ + word] |= takes;
  }
  /// Those of some samples of a row that a piece takes.
  uint64_t takesMade(const Piece& piece, const MaterialIndex* row, uint64_t bits) const {
    uint64_t out = 0;
    for (; bits != 0; bits &= bits - 1) {
      const MaterialIndex made = row[std::countr_zero(bits)];
      if (piece.takes(made, made != kOpen && materials_.isLiquid(made))) out |= bits & (~bits + 1);
    }
    return out;
  }
  /// Where a material is put: as words_.
  uint64_t* planeOf(MaterialIndex material) {
    for (auto& [of, bits] : planes_)
      if (of == material) return bits.data();
    return planes_.emplace_back(material, std::vector<uint64_t>(words_.size(), 0)).second.data();
  }

  const SampleBlock& block_;
  const Rect& cells_;
  const BlockStage& materials_;
  MaterialIndex* blocks_;  // Of the part's first column.
  int64_t wide_, rows_, perRow_;
  std::vector<Word> words_;
  std::vector<uint8_t> met_;  // Rows.
  std::vector<std::pair<MaterialIndex, std::vector<uint64_t>>> planes_;
};

}  // namespace

/// Pieces come first, then the wood of all trees, then their leaves, then cover.
Status ObjectCells::applyPart(const SampleBlock& block, const Rect& cells, MaterialIndex* blocks,
    const std::stop_token& stop) const {
  struct Tree {
    PlacedObject object;
    const Piece* piece;
    ObjectTrees::Grown grown;
  };
  std::vector<Tree> trees;
  std::vector<CellClaim> claims;
  const int64_t top = block.y + (block.height - 1) * block.step + 1;
  const auto planted = [&](const PlacedObject& object, const Kind& kind, const Made& made) {
    Tree tree{object, made.piece.get(), trees_.grown(*made.style, object, kind.hangs)};
    const TreeStamp& stamp = *tree.grown.stamp;
    const Rect about = acre::grown({object.cell.x, object.cell.z, 1, 1}, stamp.aside);
    if (!intersection(about, cells).empty() && object.y + stamp.lowest < top &&
        object.y + stamp.highest >= block.y)
      trees.push_back(std::move(tree));
  };
  if (!eachMade(cells, block.y, top, stop, planted,
          [&](const PlacedObject&, const CellClaim& claim) { claims.push_back(claim); }))
    return cancelled();
  if (trees.empty() && claims.empty()) return done();
  std::sort(claims.begin(), claims.end(), [](const CellClaim& a, const CellClaim& b) {
    return std::tie(a.rank, a.id, a.kind) < std::tie(b.rank, b.id, b.kind);
  });
  std::sort(trees.begin(), trees.end(), [](const Tree& a, const Tree& b) {
    return std::tie(a.object.id, a.object.kind) < std::tie(b.object.id, b.object.kind);
  });
  BlockStamper stamper(block, cells, *plan_.parts().blocks, blocks);
  auto claim = claims.begin();
  for (; claim != claims.end() && claim->rank < ObjectTrees::kWoodRank; ++claim)
    stamper.put(*claim);
  for (const bool wood : {true, false})
    for (const Tree& tree : trees) stamper.put(*tree.piece, tree.object, tree.grown, wood);
  for (; claim != claims.end(); ++claim) stamper.put(*claim);
  stamper.finish();
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
