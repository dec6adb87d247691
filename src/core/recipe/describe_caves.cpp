#include <fmt/format.h>

#include <cmath>
#include <set>

#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/describe.h"

namespace acre {

const Words& wordsOf(GridEdge) {
  static const Words words = {"filled", "empty", "left"};
  return words;
}

double tunnelReach(const Tunnels& tunnels) {
  const double widest = tunnels.bore * (1 + tunnels.boreVary) * (1 + tunnels.rough);
  const double box = tunnels.side * tunnels.step + tunnels.shift * tunnels.step / 2 + widest;
  return std::ceil(std::max(box, tunnels.mouth * (1 + tunnels.rough))) + 1;
}

void describe(Visitor& v, NoiseVoid& part) {
  const MembersOf m(v, part, "void");
  m.id();
  m.on(&NoiseVoid::on, true);
  describeBand(v, part.first);
  m(&NoiseVoid::second, "second", "Second noise", "A second band that must hold too.", sparse());
  m(&NoiseVoid::curve, "curve", "By depth",
      "Factor of the bands' widths by depth in cells; none: 1.", sparse(number(Range{0, 16})));
  m(&NoiseVoid::underSea, "underSea", "Under the sea", "May open the sea bed.", sparse());
}

/// Rules over the numbers of tunnels.
static void tunnelRules(Ruling& rules, const Tunnels& t) {
  const bool plane = rules.recipe().frame.kind == WorldKind::Side;
  const int points = (2 * t.side + 1) * (plane ? 1 : 2 * t.side + 1) * (2 * t.up + 1);
  if (points > 4096)
    rules.refuse("side",
        fmt::format("{} lattice points for one system ({} to either side, {} up and down)", points,
            t.side, t.up),
        plane ? "at most 4096: (2 side + 1) (2 up + 1)"
              : "at most 4096: (2 side + 1)^2 (2 up + 1)");
  const double room = t.side * t.step;
  for (const auto& [key, value, most] :
      {std::tuple("length", t.length, room), {"arm", t.arm, room}, {"apart", t.apart, 2 * room}})
    if (!(value <= most))
      rules.refuse(key, fmt::format("a passage of {} cells leaves the reach of its system", value),
          fmt::format("0 to {} cells, with {} lattice points of {} cells to either side", most,
              t.side, t.step));
  if (!(t.gap <= room))
    rules.refuse("gap", fmt::format("{} is out of range", t.gap), Range{0, room}.text());
  if (const double thin = t.bore * (1 - t.boreVary) * (1 - t.rough); thin < limits::thinnestBore)
    rules.refuse("bore",
        fmt::format("passages of {:.2f} cells at their thinnest may be closed", thin),
        fmt::format("bore (1 - boreVary) (1 - rough) of at least {}", limits::thinnestBore));
  if (const double reach = tunnelReach(t); rules.ok() && 2 * t.spacing < reach)
    rules.refuse("spacing",
        fmt::format("squares of {} cells for systems that reach {}", t.spacing, reach),
        fmt::format("at least {} cells", std::ceil(reach / 2)));
}

void describe(Visitor& v, Tunnels& tunnels) {
  constexpr Range kAnyLength{0, std::numeric_limits<double>::infinity()};
  const MembersOf m(v, tunnels, "tunnels");
  m.id();
  m.on(&Tunnels::on, true);
  m(&Tunnels::spacing, "spacing", "Spacing",
      "Side of a square that may hold a system; at least half its reach.",
      cells(limits::tunnelSpacing, 4).wholeOnly());
  m(&Tunnels::share, "share", "Share", "Of the squares that hold one.", share(0.005));
  m(&Tunnels::depth, "depth", "Depth", "Of the site below the surface.",
      cells(limits::tunnelDepth, 0.5));
  m(&Tunnels::depthVary, "depthVary", "Deeper by", "Added to it, between none and all of it.",
      cells(limits::tunnelDepth, 0.5));
  m(&Tunnels::step, "step", "Step", "Cells between lattice points.",
      cells(limits::tunnelStep, 0.1));
  m(&Tunnels::length, "length", "Length", "Of the main passage from the site, as the crow flies.",
      cells(kAnyLength, 1).says("0 to side · step"));
  m(&Tunnels::arms, "arms", "Arms", "Passages that leave the main one.",
      number(limits::tunnelArms, 1));
  m(&Tunnels::arm, "arm", "Arm", "Length of an arm, as the crow flies; 0: none.",
      cells(kAnyLength, 1).says("0 to side · step"));
  m(&Tunnels::independent, "independent", "Independent",
      "Passages of a system that start and end on their own.", number(limits::tunnelArms, 1));
  m(&Tunnels::apart, "apart", "Ends apart", "Of the ends of an independent passage; 0: none.",
      cells(kAnyLength, 1).says("0 to 2 · side · step"));
  m(&Tunnels::gap, "gap", "Gap",
      "Cells that passages keep from each other, but where an arm leaves.",
      cells(kAnyLength, 0.5).says("0 to side · step"));
  m(&Tunnels::noise, "noise", "Detours",
      "How many times dearer than the cheapest a point may be; 0: straight.",
      number(limits::tunnelNoise, 0.05));
  m(&Tunnels::shift, "shift", "Stray",
      "Of half the step: how far points stand from their lattice places.", share(0.005));
  m(&Tunnels::bore, "bore", "Bore", "Radius of the passages, at least 0.9 where thinnest.",
      cells(limits::bore, 0.05));
  m(&Tunnels::boreVary, "boreVary", "Bore varies", "Share by which it varies along the way.",
      share(0.005, Range{0, 0.9}));
  m(&Tunnels::rough, "rough", "Rough walls", "Share by which the walls stray from round.",
      share(0.005, Range{0, 0.9}));
  m(&Tunnels::mouths, "mouths", "Mouths",
      "Share of the systems with a shaft from the site to the open air.", share(0.005));
  m(&Tunnels::mouth, "mouth", "Mouth", "Radius of the shaft at the surface.",
      cells(limits::mouth, 0.1));
  m(&Tunnels::flooded, "flooded", "Flooded",
      "Of the height of a system that stands under water, from below.", share(0.005));
  m(&Tunnels::side, "side", "To the sides",
      "Lattice points to either side of the site; 4,096 in all.", number(limits::tunnelSide, 1));
  m(&Tunnels::up, "up", "Up and down", "Lattice points above and below the site.",
      number(limits::tunnelUp, 1));
  m(&Tunnels::water, "water", "Water", "Material of it; none: none.", sparse().of(Role::Listed));
  v.rule([&](Ruling& rules) { tunnelRules(rules, tunnels); });
}

void describe(Visitor& v, AutomatonLayer& layer) {
  static const Words kKinds = {"floors", "volume"};
  const MembersOf m(v, layer, "automaton");
  m.id();
  m.on(&AutomatonLayer::on, true);
  v.kinds(said("kind", "Kind", "Flat floors, or a volume.", must()), kKinds, layer.volume ? 1 : 0,
      [&](size_t kind) {
        const bool volume = kind == 1;
        if (volume != layer.volume) layer.volume = volume;
        m(&AutomatonLayer::rule, "rule", "Rule",
            "In B/S notation, of 8 neighbours in floors and 26 in volumes; without B0.",
            About{}.matching(volume ? kVolumeRulePattern : kPlaneRulePattern));
        m(&AutomatonLayer::fill, "fill", "Fill", "Chance of each cell to be solid at first.",
            share(0.005));
        m(&AutomatonLayer::steps, "steps", "Steps", "Of the rule.",
            number(limits::automatonSteps, 1));
        if (volume) {
          m(&AutomatonLayer::bottom, "bottom", "Bottom", "The lowest level of the volume.",
              must(cells(limits::altitude, 1)).wholeOnly());
          m(&AutomatonLayer::top, "top", "Top",
              "The level above the highest, up to 1,024 above the bottom.",
              must(cells(limits::altitude, 1)).wholeOnly());
          m(&AutomatonLayer::edge, "edge", "Edge", "What lies above and below the volume.");
        } else {
          m(&AutomatonLayer::floors, "floors", "Floors", "Levels y of their lowest cells.",
              must(cells(limits::altitude)).upTo(limits::caveFloors).wholeOnly());
          m(&AutomatonLayer::tall, "tall", "Tall", "Cells that a floor is high.",
              cells(limits::automatonTall, 1));
        }
        m(&AutomatonLayer::cover, "cover", "Cover", "Cells of ground that stay above it.",
            cells(limits::automatonCover, 0.5));
      });
  v.rule([&](Ruling& rules) {
    const int neighbours = layer.volume ? AutomatonRule::kVolume : AutomatonRule::kPlane;
    const auto rule = readRule(layer.rule, neighbours, rules.at() + "/rule");
    if (!rule)
      rules.refuse(rule.error());
    else if (rule->birth & 1)
      rules.refuse("rule",
          fmt::format("\"{}\" fills empty space, which has no end here", layer.rule),
          "a rule without B0");
    const double levels = layer.top - layer.bottom;
    if (layer.volume && !(levels >= 1 && levels <= static_cast<double>(limits::automatonLevels)))
      rules.refuse("top", fmt::format("{} levels from bottom to top", levels),
          fmt::format("1 to {}", limits::automatonLevels));
  });
}

void describe(Visitor& v, CaveKind& kind) {
  const MembersOf m(v, kind, "caveKind");
  m.idAndName();
  const auto end = [&](std::optional<double> CaveKind::*member, std::string_view key,
                       std::string_view title, std::string_view what, std::string_view unit) {
    m(member, key, title, what, sparse(number(limits::altitude, 0, unit)));
  };
  end(&CaveKind::from, "from", "From depth", "Cells below the surface, from here on.", "cells");
  end(&CaveKind::to, "to", "To depth", "And above this.", "cells");
  end(&CaveKind::wetFrom, "wetFrom", "From moisture", "As the climate's field has it.", "");
  end(&CaveKind::wetTo, "wetTo", "To moisture", "And below this.", "");
  m(&CaveKind::floor, "floor", "Floor", "Material of cells straight under a cave; none: as it is.",
      sparse().of(Role::Listed));
  m(&CaveKind::wall, "wall", "Wall", "Material of cells beside and above it; none: as it is.",
      sparse().of(Role::Listed));
  v.rule([&](Ruling& rules) {
    const auto check = [&](const char* low, const char* high, const auto& from, const auto& to) {
      if (from && to && !(*from < *to))
        rules.refuse(high, fmt::format("{} does not lie above {}", *to, *from),
            fmt::format("more than {}", low));
    };
    check("from", "to", kind.from, kind.to);
    check("wetFrom", "wetTo", kind.wetFrom, kind.wetTo);
    if ((kind.wetFrom || kind.wetTo) && !rules.recipe().climate.on)
      rules.refuse(kind.wetFrom ? "wetFrom" : "wetTo",
          "moisture decides, but the stage Climate is off",
          "no moisture, or a stage Climate that is on");
  });
}

void describe(Visitor& v, Caves& caves) {
  const MembersOf m(v, caves, "caves");
  m.on(&Caves::on);
  m(&Caves::seaCover, "seaCover", "Sea cover",
      "Cells of ground that stay between caves and the sea, besides what overhangs reach.",
      cells(limits::seaCover, 0.2));
  m(&Caves::voids, "voids", "Voids", "Open where one noise, or two, lie within their bands.",
      sparse().upTo(limits::caveParts));
  m(&Caves::tunnels, "tunnels", "Tunnels", "Systems of passages.",
      sparse().upTo(limits::caveParts));
  m(&Caves::automata, "automata", "Automata", "What a cellular automaton leaves open.",
      sparse().upTo(limits::caveParts));
  m(&Caves::kinds, "kinds", "Kinds", "What the rock beside caves is made of: the first that fits.",
      sparse().upTo(limits::caveParts));
  m(&Caves::opening, "opening", "Opening",
      "Material of the openings of tunnels in worlds of columns; none: none shown.",
      sparse().of(Role::Listed));
  v.rule([&](Ruling& rules) {
    std::set<std::string> ids;
    const auto alone = [&](const char* key, const auto& list) {
      for (size_t i = 0; i < list.size(); ++i)
        if (!ids.insert(list[i].id).second)
          rules.refuse(fmt::format("{}/{}/id", key, i), fmt::format("\"{}\" is taken", list[i].id),
              "an id of its own");
    };
    alone("voids", caves.voids);
    alone("tunnels", caves.tunnels);
    alone("automata", caves.automata);
    alone("kinds", caves.kinds);
    if (rules.recipe().frame.blocks()) return;
    for (const auto& [key, empty] :
        {std::pair("voids", caves.voids.empty()), {"automata", caves.automata.empty()}})
      if (!empty)
        rules.refuse(key, "in a world of columns nothing lies under the ground",
            "none, or a world of the kind voxel or side");
  });
}

}  // namespace acre
