#include "audit/ground_checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "audit/plumb.h"
#include "base/text.h"
#include "recipe/validate.h"
#include "strata/blocks.h"
#include "world/world.h"

namespace acre {
namespace {

/// Columns spread over the world.
constexpr int64_t kAcross = 64;

/// One row of them with their heights, and those of their neighbours where asked for.
struct Row {
  std::vector<Cell> cells;
  std::vector<float> heights;

  Row(const World& world, const SampleSites& sites, int64_t j) {
    const int64_t columns = std::min(kAcross, sites.columns());
    for (int64_t i = 0; i < columns; ++i) {
      Cell cell = sites.at(i * sites.columns() / columns, j);
      if (world.layout().vertical().plane) cell.z = 0;
      cells.push_back(cell);
    }
    heights = at(world, cells);
  }

  std::vector<float> at(const World& world, const std::vector<Cell>& places) const {
    const auto count = places.size();
    std::vector<float> out(count);
    std::vector<BiomeIndex> biomes(count);
    std::vector<MaterialIndex> materials(count);
    world.columns().scattered(static_cast<int>(count), places.data(), out.data(), biomes.data(),
        materials.data(), Accuracy::Approximate);
    return out;
  }
  std::vector<float> moved(const World& world, int64_t dx, int64_t dz) const {
    std::vector<Cell> places = cells;
    for (Cell& c : places) c = {c.x + dx, c.z + dz};
    return at(world, places);
  }
};

class GroundAuditor {
 public:
  GroundAuditor(const World& world, const std::stop_token& stop, std::vector<Check>& out)
      : world_(world), recipe_(world.recipe()), stop_(stop), out_(out) {}

  bool run() {
    const Frame& frame = recipe_.frame;
    const SampleSites sites(frame.x, frame.z, world_.heightField().widestFeature(), world_.seed());
    const int64_t rows = std::min(kAcross, sites.rows());
    for (int64_t j = 0; j < rows; ++j) {
      if (stop_.stop_requested()) return false;
      const Row row(world_, sites, j * sites.rows() / rows);
      if (frame.blocks())
        lookAtRange(row);
      else if (!recipe_.fillDown && !world_.level())  // Walls are meant to be steep.
        lookAtSteps(row);
    }
    sayRange();
    saySteps();
    checkOverhang();
    checkOres();
    return true;
  }

 private:
  void lookAtSteps(const Row& row) {
    const std::vector<float> sides[4] = {row.moved(world_, -1, 0), row.moved(world_, 1, 0),
        row.moved(world_, 0, -1), row.moved(world_, 0, 1)};
    for (size_t i = 0; i < row.cells.size(); ++i) {
      ++seen_;
      const uint16_t fill = fillBeside(
          row.heights[i], std::min({sides[0][i], sides[1][i], sides[2][i], sides[3][i]}));
      if (fill == 0) continue;
      ++steep_;
      if (fill <= deepest_) continue;
      deepest_ = fill;
      steepest_ = row.cells[i];
    }
  }

  void saySteps() {
    constexpr double kFew = 0.002;
    if (static_cast<double>(steep_) <= kFew * static_cast<double>(seen_)) return;
    out_.push_back({"open-steps",
        fmt::format("{} of the cells stand two or more above a neighbour: with one cell a column "
                    "holes open beside them, up to {} deep, as at {},{}",
            percentText(static_cast<double>(steep_) / static_cast<double>(seen_)), deepest_,
            steepest_->x, steepest_->z),
        StageId::Heights, "/heights/fillDown", {}, "fill down",
        [](Recipe& r) { r.fillDown = true; }, steepest_});
  }

  void lookAtRange(const Row& row) {
    const AxisBounds range = world_.vertical();
    for (size_t i = 0; i < row.cells.size(); ++i) {
      const double h = std::floor(static_cast<double>(row.heights[i]));
      const bool high = h > static_cast<double>(range.min + range.extent);
      const bool low = h <= static_cast<double>(range.min);
      ++seen_;
      cut_ += high || low;
      if ((high || low) && !cutAt_) cutAt_ = row.cells[i];
      lowest_ = std::min(lowest_, h);
      highest_ = std::max(highest_, h);
    }
  }

  void sayRange() {
    if (cut_ == 0) return;
    const AxisBounds range = world_.vertical();
    // Whole chunks, with room for what stands on the ground.
    const int64_t n = recipe_.frame.chunkSize;
    const auto from = static_cast<int64_t>(lowest_) - 8, to = static_cast<int64_t>(highest_) + 8;
    const int64_t low = std::min(range.min, floorDiv(from, n) * n);
    const int64_t high = std::max(range.min + range.extent, (floorDiv(to, n) + 1) * n);
    const bool fits =
        static_cast<double>(low) >= limits::verticalMin.low && high - low <= limits::verticalExtent;
    out_.push_back({"cut-range",
        fmt::format("{} of the columns end outside the vertical range, {} to {}: the "
                    "heights reach {} to {}, as at {},{}",
            percentText(static_cast<double>(cut_) / static_cast<double>(seen_)), range.min,
            range.min + range.extent, lowest_, highest_, cutAt_->x, cutAt_->z),
        StageId::Frame, "/frame/bounds/y", {},
        fits ? fmt::format("levels {} to {}", low, high) : "",
        fits ? std::function<void(Recipe&)>([low, high](Recipe& r) {
          r.frame.y = {low, high - low};
        })
             : nullptr,
        cutAt_});
  }

  void checkOverhang() {
    const Overhang& overhang = recipe_.overhang;
    if (!recipe_.frame.blocks() || !overhang.on || overhang.amount > 0) return;
    out_.push_back({"no-overhang", "the overhangs push by 0 cells: nothing hangs over",
        StageId::Heights, "/heights/overhang/amount", {},
        fmt::format("push by {} cells", shortNumber(overhang.reach)),
        [](Recipe& r) { r.overhang.amount = r.overhang.reach; }, {}});
  }

  void checkOres() {
    const BlockStage* blocks = world_.blocks();
    if (!blocks || !blocks->ores()) return;
    for (const OreShortage& s : blocks->ores()->shortages()) {
      const Ore& ore = recipe_.ores[s.ore];
      out_.push_back({"ore-short",
          s.noHost ? fmt::format("{} has no rock to lie in: none of its hosts lies "
                                 "where its curve lets it",
                         ore.id)
                   : fmt::format("{} cannot be had as asked: at y {} it would need {} "
                                 "of its rock",
                         ore.id, s.y, percentText(std::min(s.wanted, 9.99))),
          StageId::Strata, fmt::format("/strata/ores/{}", s.ore), ore.id,
          s.noHost && !ore.hosts.empty() ? "let it lie in any rock" : "",
          s.noHost && !ore.hosts.empty() ? std::function<void(Recipe&)>([id = ore.id](Recipe& r) {
            for (Ore& o : r.ores)
              if (o.id == id) o.hosts.clear();
          })
                                         : nullptr,
          {}});
    }
  }

  const World& world_;
  const Recipe& recipe_;
  const std::stop_token& stop_;
  std::vector<Check>& out_;
  int64_t seen_ = 0, steep_ = 0, cut_ = 0;
  uint16_t deepest_ = 0;
  std::optional<Cell> steepest_, cutAt_;
  double lowest_ = HUGE_VAL, highest_ = -HUGE_VAL;
};

}  // namespace

bool checkGround(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  return GroundAuditor(world, stop, out).run();
}

}  // namespace acre
