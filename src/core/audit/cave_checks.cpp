#include "audit/cave_checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "audit/cave_figures.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

/// Systems that are measured, and how far they are searched for.
constexpr size_t kMeasured = 12;
constexpr int64_t kSquaresAround = 6;

constexpr double kTooStraight = 0.88, kTooRound = 0.08, kMelted = 0.25, kTooOpen = 0.25;

class CaveAuditor {
 public:
  CaveAuditor(const World& world, const std::stop_token& stop, std::vector<Check>& out)
      : world_(world), caves_(*world.recipe().caves), stop_(stop), out_(out) {}

  bool run() {
    for (size_t part = 0; part < world_.caves()->tunnels().size(); ++part)
      if (!lookAtTunnels(part)) return false;
    return !world_.blocks() || lookAtShares();
  }

 private:
  void add(const char* id, std::string sentence, std::string pointer, std::string subject,
      std::string mend, std::function<void(Recipe&)> apply, std::optional<Cell> place) {
    out_.push_back({id, std::move(sentence), StageId::Caves, std::move(pointer), std::move(subject),
        std::move(mend), std::move(apply), place});
  }

  bool lookAtTunnels(size_t part) {
    const CaveStage::TunnelPart& tunnels = world_.caves()->tunnels()[part];
    const auto index = static_cast<size_t>(tunnels.index);
    const Tunnels& t = caves_.tunnels[index];
    const std::string at = fmt::format("/caves/tunnels/{}", index);
    const auto all = findSystems(world_, {0, 0},
        std::min(kFarthestSearch, kSquaresAround * tunnels.stage->spacing()), stop_, false);
    if (!all) return false;
    std::vector<SystemFigures> measured;
    std::optional<Cell> first;
    size_t closed = 0, torn = 0;
    for (const FoundSystem& one : *all) {
      if (one.part != part || measured.size() == kMeasured) continue;
      if (stop_.stop_requested()) return false;
      if (!first) first = Cell{one.system->x, one.system->z};
      measured.push_back(figuresOf(world_, one));
      closed += measured.back().mouths == 0;
      torn += measured.back().pieces > 1 + (t.apart > 0 ? t.independent : 0);
    }
    const std::string id = t.id;
    // By its id: the recipe that is mended may have come on.
    const auto set = [id](auto member, auto value) {
      return [id, member, value](Recipe& r) {
        for (Tunnels& one : r.caves->tunnels)
          if (one.id == id) one.*member = value;
      };
    };
    if (measured.empty()) {
      if (t.share > 0)
        add("no-systems",
            fmt::format("no tunnel system of \"{}\" exists within {} squares of the origin: sites "
                        "lie too near the surface, the sea or the bottom",
                id, kSquaresAround),
            at + "/depth", id, "", {}, {});
      return true;
    }
    const auto count = static_cast<double>(measured.size());
    double straight = 0, round = 0, overlap = 0;
    for (const SystemFigures& f : measured) {
      straight += f.straightness / count;
      round += f.roundness / count;
      overlap += f.overlap / count;
    }
    if (!world_.blocks()) return true;
    if (straight > kTooStraight && t.noise < 2)
      add("straight-tunnels",
          fmt::format("passages of \"{}\" run straight: {:.2f} of their length as the crow flies",
              id, straight),
          at + "/noise", id, "path noise 3", set(&Tunnels::noise, 3.0), first);
    // In cells even a pipe is not quite round, so the recipe is asked. In a side world there is but
    // one direction across.
    if (!world_.layout().vertical().plane && t.rough < kTooRound)
      add("round-tunnels",
          fmt::format("passages of \"{}\" are round as pipes: their walls stray by {:.0f} % (the "
                      "narrowest direction has {:.2f} of the widest)",
              id, t.rough * 100, round),
          at + "/rough", id, "walls 25 % rough", set(&Tunnels::rough, 0.25), first);
    if (closed == measured.size())
      add("closed-tunnels",
          fmt::format("none of {} systems of \"{}\" has a way to the surface", measured.size(), id),
          at + "/mouths", id, t.mouths < 0.2 ? "a mouth for half of them" : "",
          t.mouths < 0.2 ? std::function<void(Recipe&)>(set(&Tunnels::mouths, 0.5)) : nullptr,
          first);
    if (overlap > kMelted)
      add("melted-tunnels",
          fmt::format(
              "{:.0f} % of the passages of \"{}\" are more than {:g} times as wide as bored: "
              "they have melted together",
              overlap * 100, id, kTooWide),
          at + "/gap", id, "", {}, first);
    if (torn * 2 > measured.size() && t.apart > 0 && t.independent > 0)
      add("torn-tunnels",
          fmt::format("{} of {} systems of \"{}\" fall into more than {} parts", torn,
              measured.size(), id, 1 + t.independent),
          at + "/bore", id, "", {}, first);
    return true;
  }

  /// What share of the ground each part takes, over a sample of blocks.
  bool lookAtShares() {
    constexpr int32_t kSide = 64;
    const AxisBounds range = world_.vertical();
    const bool plane = world_.layout().vertical().plane;
    const size_t parts = world_.caves()->parts().size();
    std::vector<uint64_t> dug(parts);
    uint64_t ground = 0;
    constexpr Cell kPlaces[] = {{0, 0}, {1024, -640}, {-4096, 2048}, {20'000, 30'000}};
    std::vector<uint16_t> held;
    std::vector<float> heights;
    for (Cell place : kPlaces) {
      if (plane) place.z = 0;
      const int32_t depth = plane ? 1 : kSide;
      heights.resize(static_cast<size_t>(kSide) * static_cast<size_t>(depth));
      if (!world_.sample({place.x, place.z, 1, kSide, depth}, heights.data(), nullptr, stop_))
        return false;
      for (const float h : heights)
        ground += static_cast<uint64_t>(
            std::clamp<int64_t>(static_cast<int64_t>(h) - range.min, 0, range.extent));
      for (int64_t y = range.min; y < range.min + range.extent; y += kSide) {
        const auto tall =
            static_cast<int32_t>(std::min<int64_t>(kSide, range.min + range.extent - y));
        held.resize(heights.size() * static_cast<size_t>(tall));
        if (!world_.ground().caves(
                {place.x, y, place.z, 1, kSide, tall, depth}, held.data(), stop_))
          return false;
        for (const uint16_t mark : held)
          if (mark != 0) ++dug[(mark & ~CaveStage::kFlooded) - size_t{1}];
      }
    }
    for (size_t p = 0; p < parts && ground > 0; ++p) {
      const CaveStage::PartName& part = world_.caves()->parts()[p];
      const double share = static_cast<double>(dug[p]) / static_cast<double>(ground);
      const char* list = part.part == CaveStage::Part::Tunnel ? "tunnels"
                         : part.part == CaveStage::Part::Void ? "voids"
                                                              : "automata";
      const std::string at = fmt::format("/caves/{}/{}", list, part.index);
      if (share > kTooOpen)
        add("hollow",
            fmt::format(
                "\"{}\" opens {:.0f} % of all ground: what is left floats", part.id, share * 100),
            at, part.id, "", {}, {});
      else if (dug[p] == 0 && part.part != CaveStage::Part::Tunnel)
        add("never-open", fmt::format("\"{}\" opens no cell of the sample", part.id), at, part.id,
            "", {}, {});
    }
    return true;
  }

  const World& world_;
  const Caves& caves_;
  const std::stop_token& stop_;
  std::vector<Check>& out_;
};

}  // namespace

bool checkCaves(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  return !world.caves() || CaveAuditor(world, stop, out).run();
}

}  // namespace acre
