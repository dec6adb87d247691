/// The proof that a world is the same however it is asked for: in chunks or whole, in any order, by
/// any number of threads, with any instruction set, remembered or not.
#pragma once

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/hash.h"
#include "base/result.h"
#include "world/plan.h"

namespace acre {

/// A cell as an independent evaluator sees it.
struct EvaluatedCell {
  float height = 0;
  std::string biome;     ///< Id, "none" or "outside".
  std::string material;  ///< Id, "unassigned" or "outside".
};

/// What stands on a cell, as an independent evaluator sees it.
struct EvaluatedObject {
  std::string kind, choice;  ///< Ids; no choice: the kind itself.
  Cell cell;
  int64_t y = 0;  ///< In worlds of blocks.
  uint64_t id = 0;
  int turn = 0;
  bool operator==(const EvaluatedObject&) const = default;
};

struct ProofOptions {
  static constexpr int64_t kMostSide = 4096;

  /// What is looked at; empty: three squares of `side` cells at the origin, at negative coordinates
  /// and two thousand million cells out, or what the world's bounds leave of them.
  std::vector<Rect> areas;
  int64_t side = 128;
  int sampledCells = 200;  ///< Per area, for the evaluators that go cell by cell.
  std::vector<unsigned> threads = {1, 2, 4, 8, 0};
  /// A second evaluator, if there is one. Of worlds with water it tells the ground before water,
  /// and no material: a network for every area would take minutes.
  std::function<EvaluatedCell(Cell)> reference;
  /// The same for blocks: the id of what one holds.
  std::function<std::string(Cell, int64_t)> referenceBlock;
  /// The same for objects, by kind, then z, then x. Not asked in worlds with water.
  std::function<std::vector<EvaluatedObject>(const Rect&)> referenceObjects;
  /// The same for tiles: the value of a cell for one of the groups that are on, where a cell of the
  /// plane is made of what `material` tells.
  std::function<uint16_t(
      const Rect& plane, int group, Cell cell, const std::function<std::string(Cell)>& material)>
      referenceTiles;
  /// Makes chunks of a world: the world itself, unless something stands in front of it.
  std::function<std::shared_ptr<const ChunkSource>(std::shared_ptr<const World>)> chunks;
  std::stop_token stop;
  std::function<void(double share, const std::string& what)> progress;
};

/// Where two ways of asking part.
struct ProofDifference {
  Cell cell;
  std::optional<int64_t> y;  ///< Of a block.
  std::string one, other;    ///< What the two ways are.
  std::string oneSays, otherSays;
  std::string onePlumb, otherPlumb;  ///< Plumb lines, each from its own side.
};

struct ProofStep {
  std::string id;  ///< "chunks", "reference", "objects", "falls", "threads 4", "simd plain", ...
  std::string sentence;  ///< "Chunks equal cuts of the whole"
  bool holds = true;
  int64_t compared = 0;  ///< Cells.
  std::optional<ProofDifference> difference;
};

struct Proof {
  std::vector<ProofStep> steps;
  std::vector<Rect> areas;
  std::vector<Digest> areaHashes;
  Digest world;  ///< worldFingerprint: compare it with another machine's.
  bool holds() const;
};

/// Compiles the recipe as often as it needs, each time from nothing. Errors: recipes that do not
/// compile, areas beyond the limits or larger than kMostSide, stopped.
Result<Proof> prove(const Recipe& recipe, const ProofOptions& options);

/// Fingerprints of world and areas alone, without any step.
Result<Proof> fingerprints(const Recipe& recipe, const ProofOptions& options);

/// The areas that are looked at when none is named.
std::vector<Rect> proofAreas(const Rect& bounds, int64_t side);

/// A line a step, the fingerprint, and the first difference in full.
std::string proofText(const Proof& proof);
std::string proofJson(const Proof& proof);

}  // namespace acre
