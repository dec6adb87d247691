#include <QtTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numeric>
#include <random>
#include <set>

#include "audit/census.h"
#include "audit/chart_sample.h"
#include "audit/check_kinds.h"
#include "audit/checks.h"
#include "audit/plumb.h"
#include "climate/biomes.h"
#include "core/biome_recipes.h"
#include "dry.h"
#include "recipe/edits.h"
#include "recipe/look.h"
#include "recipe/validate.h"
#include "strata/bands.h"
#include "suite.h"
#include "world/demos.h"
#include "world/world.h"

using namespace acre;

namespace {

std::unique_ptr<Engine> engine() {
  return std::move(Engine::create({})).value();
}

Recipe demo() {
  return dryDemo("saltfen-reach");
}

Layer noiseLayer(double width) {
  NoiseSource noise;
  noise.width = width;
  noise.fractal = Fractal::Single;
  Layer layer;
  layer.id = "a";
  layer.name = "Layer A";
  layer.source = noise;
  layer.amplitude = 10;
  return layer;
}

/// The JSON pointers of all members that a recipe declares, those it leaves out as well.
class Pointers : public PlainVisitor {
 public:
  explicit Pointers(const Recipe& recipe) { look(*this, recipe); }
  bool contains(const std::string& pointer) const { return all_.contains(pointer); }

  bool optional(const About& about, bool there) override {
    if (!about.key.empty()) add(about);
    return there;
  }
  bool meets(const About& about, const void*) override { return add(about), true; }
  bool instead(const About& about, const Words&, size_t&, bool now) override {
    return add(about), now;
  }
  bool lent(const About& about, std::string& of) override { return add(about), !of.empty(); }
  void kinds(const About& about, const Words&, size_t now, const Member& members) override {
    add(about);
    members(now);
  }
  void pair(const About& about, std::optional<double>&, std::optional<double>&) override {
    add(about);
  }
  void object(const About& about, const Members& members) override {
    const std::string outer = at_;
    if (!about.key.empty()) add(about), at_ += "/" + std::string(about.key);
    members();
    at_ = outer;
  }
  void list(const About& about, size_t count, const Member&, const Member& member) override {
    add(about);
    const std::string outer = at_;
    for (size_t i = 0; i < count; ++i) {
      at_ = outer + "/" + std::string(about.key) + "/" + std::to_string(i);
      all_.insert(at_);
      member(i);
    }
    at_ = outer;
  }

 private:
  void add(const About& about) {
    if (!about.key.empty()) all_.insert(at_ + "/" + std::string(about.key));
  }
  std::string at_;
  std::set<std::string> all_;
};

/// Ids of the checks that a recipe raises.
QStringList found(Engine& e, const Recipe& recipe) {
  QStringList ids;
  const auto checks = *runChecks(e, **e.compile(recipe));
  const Pointers declared(recipe);
  for (const Check& c : checks) {
    ids << QString::fromStdString(c.id);
    if (whatIs(c.id).empty()) ids << QString::fromStdString("untold " + c.id);
    if (!declared.contains(c.pointer)) ids << QString::fromStdString("undeclared " + c.pointer);
  }
  return ids;
}

}  // namespace

class AuditTest : public QObject {
  Q_OBJECT

 private slots:
  /// What stands on or under the surface: each check is raised by what it is about, and mended.
  void groundIsChecked() {
    const auto e = engine();
    Recipe steep = demo();
    for (Layer& layer : steep.heights.layers) layer.amplitude *= 8;
    const auto raised = [&](const Recipe& r, const char* id) -> std::optional<Check> {
      const auto checks = *runChecks(*e, **e->compile(r));
      for (const Check& c : checks)
        if (c.id == id) return c;
      return {};
    };
    const auto open = raised(steep, "open-steps");
    QVERIFY(open && open->place && open->apply);
    QVERIFY((*e->compile(steep))->columns().fillAt(*open->place) > 0);
    open->apply(steep);
    QVERIFY(steep.fillDown && !raised(steep, "open-steps"));

    Recipe blocks = dryDemo("swallet-edge");
    for (const char* id : {"open-steps", "cut-range", "no-overhang", "ore-short"})
      QVERIFY2(!raised(blocks, id), id);
    blocks.frame.y = {-64, 96};
    auto cut = raised(blocks, "cut-range");
    QVERIFY(cut && cut->apply && cut->place);
    cut->apply(blocks);
    QVERIFY(validate(blocks).ok());
    QVERIFY(!raised(blocks, "cut-range"));
    blocks.overhang.amount = 0;
    const auto none = raised(blocks, "no-overhang");
    QVERIFY(none);
    none->apply(blocks);
    QVERIFY(!raised(blocks, "no-overhang"));
    blocks.ores.front().share = 0.6;
    blocks.ores.front().curve = {{-96, 0}, {-90, 1}, {-84, 0}};
    const auto little = raised(blocks, "ore-short");
    QVERIFY(little && little->subject == blocks.ores.front().id);
  }

  /// From the numbers of the card alone, the cell can be computed again: the sum by the layers'
  /// values, weights and ways of joining, the slope by the neighbours, the band by the margins.
  void aCardRecomputesItsCell() {
    const auto e = engine();
    const auto world = *e->compile(demo());
    std::mt19937_64 random(12);
    for (int i = 0; i < 300; ++i) {
      const int64_t reach = i % 3 ? 3000 : 2'000'000'000;
      const auto any = [&] {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach)) - reach;
      };
      const Cell cell{any(), any()};
      const auto card = nlohmann::json::parse(plumbJson(*plumbAt(*world, cell)));
      float sum = 0;
      for (const auto& layer : card["heights"]["layers"]) {
        if (!layer["on"]) continue;
        QCOMPARE(layer["before"].get<float>(), sum);
        const float value = layer["value"], weight = layer["weight"];
        QCOMPARE(layer["does"].get<std::string>(), "adds");  // All that the demo does.
        const float joined = sum + value;
        sum = weight >= 1 ? joined : weight > 0 ? sum + weight * (joined - sum) : sum;
        QCOMPARE(layer["after"].get<float>(), sum);
      }
      const auto& heights = card["heights"];
      QCOMPARE(heights["sum"].get<float>(), sum);
      const CellValue value = world->at(cell);
      QCOMPARE(heights["base"].get<float>(), value.base);
      QCOMPARE(heights["height"].get<float>(), value.height);
      QCOMPARE(card["biomes"]["biome"].get<std::string>(), world->catalogue().biomeId(value.biome));
      const auto& n = heights["neighbours"];
      const float dx = n["east"].get<float>() - n["west"].get<float>();
      const float dz = n["south"].get<float>() - n["north"].get<float>();
      QCOMPARE(heights["slope"].get<float>(), std::sqrt(dx * dx + dz * dz) * 0.5f);
      for (const auto& margin : card["strata"]["margins"]) {
        const float v = margin["value"], limit = margin["limit"];
        QCOMPARE(margin["below"].get<bool>(), v < limit);
      }
      QCOMPARE(card["strata"]["material"].get<std::string>(),
          world->catalogue().materialId(value.material));
      // The margin is true: beyond the limit it is the other material.
      if (value.slopeBand >= 0) continue;
      for (const auto& margin : card["strata"]["margins"]) {
        const float limit = margin["limit"];
        const float beyond = margin["below"].get<bool>() ? limit : std::nextafter(limit, -1e9f);
        const auto other = world->bandsOf(value.biome).decide(cell, beyond, 0);
        const Material* m = world->catalogue().material(other.material);
        QCOMPARE(m ? m->name : kUnassignedId, margin["otherwise"].get<std::string>());
      }
    }
  }

  /// Through the climate, the chart, the region and the blend of reliefs to the height, from the
  /// card's numbers alone; and its margins are true.
  void aCardRecomputesItsBiome_data() {
    QTest::addColumn<int>("variant");
    for (const int v : {-2, -1, 0, 1, 2, 3, 6, 7, 12, 14, 22, 30}) QTest::addRow("%d", v) << v;
  }
  void aCardRecomputesItsBiome() {
    QFETCH(int, variant);
    const auto e = engine();
    const Recipe recipe = variant == -2   ? demo()
                          : variant == -1 ? dryDemo("patchwork-parish")
                                          : landWithBiomes(static_cast<unsigned>(variant));
    const auto world = *e->compile(recipe);
    const Chart& chart = world->biomes()->chart();
    std::mt19937_64 random(static_cast<uint64_t>(variant + 50));
    int blended = 0, margins = 0;
    for (int i = 0; i < 120; ++i) {
      const int64_t reach = i % 3 ? 3000 : 2'000'000'000;
      const auto any = [&] {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach)) - reach;
      };
      const Cell cell{any(), any()};
      const auto card = nlohmann::json::parse(plumbJson(*plumbAt(*world, cell)));
      const auto& biome = card["biomes"];
      const CellValue value = world->at(cell);
      const float base = card["heights"]["base"], x = biome["x"], y = biome["y"];
      QCOMPARE(base, value.base);
      const bool byRegion = biome.contains("region") && biome["region"]["decides"].get<bool>();
      if (!byRegion && recipe.biomes.x.field == kTemperatureId) {
        QCOMPARE(card["climate"][0]["value"].get<float>(), x);
        QCOMPARE(card["climate"][1]["value"].get<float>(), y);
      }
      if (byRegion && biome["how"] != "drawn by weight" &&
          recipe.biomes.regions.choice == Regions::Choice::Climate) {
        const Cell site{biome["region"]["site"][0], biome["region"]["site"][1]};
        QCOMPARE(world->field(kTemperatureId)->at({site.x, 0}, {site.z, 0}), x);
      }
      if (biome["how"] != "drawn by weight")
        QCOMPARE(world->catalogue().biomeId(chart.decide(x, y, base).biome),
            biome["biome"].get<std::string>());
      for (const auto& margin : biome["margins"]) {
        const float limit = margin["limit"];
        const float beyond = margin["below"].get<bool>() ? limit : std::nextafter(limit, -1e9f);
        const bool altitude = margin["rule"] == "base height";
        const bool alongX = margin["value"].get<float>() == x && !altitude;
        const auto there = altitude ? chart.decide(x, y, beyond)
                           : alongX ? chart.decide(beyond, y, base)
                                    : chart.decide(x, beyond, base);
        const Biome* b = world->catalogue().biome(there.biome);
        QCOMPARE(margin["otherwise"].get<std::string>(), b ? b->name : "no rule");
        QVERIFY(there.biome != value.biome);
        ++margins;
      }
      // The relief of the blend, then the height.
      const auto number = [](const auto& r, const char* key) {
        return r[key].template get<float>();
      };
      const auto& relief = biome["relief"];
      if (byRegion && biome["region"]["blend"].size() > 1) {
        float sum = 0, parts = 0;
        for (const auto& part : biome["region"]["blend"]) {
          sum += number(part, "part") * number(part["relief"], "raise");
          parts += number(part, "part");
        }
        QCOMPARE(sum / parts, number(relief, "raise"));
        ++blended;
      }
      const auto sea = static_cast<float>(world->seaLevel());
      const float r = base - sea, coast = number(biome, "coast");
      const float grown = std::abs(r) < coast ? std::abs(r) / coast : 1.0f;
      float height =
          sea +
          (r * number(relief, "factor") +
              (number(relief, "raise") + number(relief, "rough") * number(biome, "noise")) * grown);
      if (number(relief, "factor") == 1 && number(relief, "raise") == 0 &&
          number(relief, "rough") == 0)
        height = base;
      else if (r >= 0)
        height = std::max(height, sea);
      else
        height = std::min(height, std::nextafter(sea, -HUGE_VALF));
      QCOMPARE(height, value.height);
      QCOMPARE(card["heights"]["height"].get<float>(), value.height);
    }
    QVERIFY(variant < 4 || blended > 3);
    QVERIFY(variant == 12 || margins > 50);
  }

  /// What no rule covers says so, with its values and the nearest rule.
  void anUncoveredCellEndsInNoRule() {
    const auto e = engine();
    const auto world = *e->compile(loadRecipe("three-fields").value());
    const auto census = *censusOfSample(*world);
    QCOMPARE(census.biomes.back().id, "none");
    const Plumb plumb = *plumbAt(*world, *census.biomes.back().example);
    QVERIFY(plumbTitle(plumb).starts_with("No biome"));
    const auto rows = plumbRows(plumb);
    const auto last =
        std::find_if(rows.begin(), rows.end(), [](const PlumbRow& r) { return r.deciding; });
    QVERIFY(last != rows.end());
    QCOMPARE(last->label, "no rule");
    QVERIFY(last->note.find("Temperature") != std::string::npos);
    QVERIFY(std::next(last)->note.find("it would be") != std::string::npos);
  }

  /// Whatever a row of a card names as the place that decides is a declared member, so that its
  /// control can be shown. found() looks at the places of checks.
  void whatDecidesIsDeclared() {
    const auto e = engine();
    std::set<std::string> named;
    for (const Demo& each : demos()) {
      Recipe recipe = loadRecipe(std::string(each.name)).value();
      recipe.edits = EditSet(recipe.seed).with({{1, 2, 0, recipe.materials.front().id}});
      const auto world = *e->compile(recipe);
      const Pointers declared(recipe);
      std::mt19937_64 random(3);
      const auto check = [&](const std::string& pointer, const std::string& by) {
        if (pointer.empty() || pointer == "/edits") return;
        named.insert(pointer);
        QVERIFY2(declared.contains(pointer),
            (std::string(each.name) + " " + pointer + " " + by).c_str());
      };
      for (int n = 0; n < suite::sized(12, 60); ++n) {
        const Cell cell{static_cast<int64_t>(random() % 600) - 300,
            recipe.frame.kind == WorldKind::Side ? 0 : static_cast<int64_t>(random() % 600) - 300};
        std::optional<int64_t> y;
        if (n % 2 && world->blocks())
          y = recipe.frame.y.min +
              static_cast<int64_t>(random() % static_cast<uint64_t>(recipe.frame.y.extent));
        for (const PlumbRow& row : plumbRows(*plumbAt(*world, cell, y)))
          check(row.pointer, row.label);
      }
    }
    QVERIFY(named.size() > 25);
  }

  void cardsReadTheSameEverywhere() {
    const auto e = engine();
    const auto world = *e->compile(demo());
    const Plumb plumb = *plumbAt(*world, {120, 40});
    const std::string text = plumbText(plumb);
    QVERIFY(text.starts_with(plumbTitle(plumb)));
    for (const PlumbRow& row : plumbRows(plumb)) QVERIFY(text.find(row.label) != std::string::npos);
    const auto rows = plumbRows(plumb);
    QCOMPARE(
        std::count_if(rows.begin(), rows.end(), [](const PlumbRow& r) { return r.deciding; }), 1);
    QVERIFY(plumbDifferences(plumb, plumb).empty());
    const auto differences = plumbDifferences(plumb, *plumbAt(*world, {-380, 200}));
    QVERIFY(!differences.empty());
    QCOMPARE(differences.front().label, "Broad rises");  // The first in the chain.
    QVERIFY(!plumbAt(*world, {INT64_MAX, 0}).ok());
    QVERIFY(!plumbAt(*world, {0, INT64_MIN}).ok());
    QVERIFY(plumbAt(*world, {2'000'000'000, -2'000'000'000}).ok());
  }

  void emptyAndBoundedWorldsExplainThemselves() {
    const auto e = engine();
    Recipe empty;
    const auto nothing = plumbRows(*plumbAt(**e->compile(empty), {3, 4}));
    QVERIFY(std::any_of(nothing.begin(), nothing.end(), [](const PlumbRow& r) {
      return r.deciding && r.label == "no rule" && r.stage == StageId::Strata;
    }));
    Recipe bounded = demo();
    bounded.frame.x = AxisBounds{0, 10};
    QCOMPARE(plumbTitle(*plumbAt(**e->compile(bounded), {10, 4})), "Outside the bounds");
  }

  void eachMistakeIsFoundAndItsMendWorks_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"flat", "aliasing", "static-octaves", "never", "no-effect", "range"})
      QTest::newRow(id) << QString::fromLatin1(id);
  }
  void eachMistakeIsFoundAndItsMendWorks() {
    QFETCH(QString, id);
    Recipe r;
    r.materials = {{"low", "Low", {}, {}}, {"high", "High", {}, {}}};
    r.bands = {{"b", Threshold{0, false, {}}, "low", {}}, {"c", {}, "high", {}}};
    r.heights.layers = {noiseLayer(40)};
    r.fillDown = true;  // What is rough is steep as well.
    const auto e = engine();
    QCOMPARE(found(*e, r), QStringList());
    auto& noise = std::get<NoiseSource>(r.heights.layers[0].source);
    if (id == "flat") {
      noise.width = 0.5;  // Two lattice cells a cell: whole numbers all the same.
      r.heights.layers[0].sampling = SamplingOffset{3, -2, false};
      r.heights.layers.push_back(noiseLayer(40));
      r.heights.layers[1].id = "other";
    } else if (id == "aliasing") {
      noise.width = 1.5;
    } else if (id == "static-octaves") {
      noise.fractal = Fractal::Fbm;
      noise.width = 12;
      noise.octaves = 5;  // 12 6 3 1.5 0.75
    } else if (id == "never") {
      r.bands.insert(r.bands.begin(), {"deep", Threshold{-500, false, {}}, "low", {}});
    } else if (id == "no-effect") {
      r.heights.layers.push_back(noiseLayer(90));
      r.heights.layers[1].id = "silent";
      r.heights.layers[1].amplitude = 0;
    } else {
      Layer rescale;
      rescale.id = "rescale";
      rescale.source = RescaleSource{-1, 1, -2, 2};
      r.heights.layers.push_back(rescale);
    }
    const auto checks = *runChecks(*e, **e->compile(r));
    QCOMPARE(checks.size(), size_t{1});
    QCOMPARE(QString::fromStdString(checks[0].id), id);
    QVERIFY(!checks[0].sentence.empty() && !checks[0].pointer.empty() && !checks[0].mend.empty());
    if (id == "static-octaves")
      QVERIFY2(
          checks[0].sentence.find("octaves 4-5") != std::string::npos, checks[0].sentence.c_str());
    if (id == "range")
      QVERIFY2(checks[0].sentence.find("% of the world outside") != std::string::npos,
          checks[0].sentence.c_str());
    checks[0].apply(r);
    QVERIFY(!found(*e, r).contains(id));
  }

  void flatIsSaidOfWhatIsFlat() {
    // The walk of a beginner: one gradient layer of width 1 without an offset.
    Recipe r;
    r.heights.layers = {noiseLayer(1)};
    r.heights.layers[0].sampling = SamplingOffset{0, 0, false};
    r.materials = {{"low", "Low", {}, {}}, {"high", "High", {}, {}}};
    r.bands = {{"b", Threshold{-3, false, {}}, "low", {}}, {"c", {}, "high", {}}};
    const auto e = engine();
    const auto checks = *runChecks(*e, **e->compile(r));
    QCOMPARE(checks.size(), size_t{1});  // The bands that level ground never reaches are not told.
    QCOMPARE(checks[0].sentence, "Layer A is flat: width 1 samples only lattice points");
    QCOMPARE(checks[0].mend, "set the sampling offset to 0.5");
    const auto world = *e->compile(r);
    for (int64_t i = 0; i < 100; ++i) QCOMPARE(world->at({i, 7 * i}).height, 0.0f);
    checks[0].apply(r);
    const auto mended = *e->compile(r);
    QVERIFY(mended->at({3, 4}).height != 0.0f);
  }

  void holesAreCountedAndFound() {
    Recipe r = demo();
    r.biomes.on = false;
    r.bands[3].material = kUnassignedId;
    const auto e = engine();
    const auto world = *e->compile(r);
    const auto census = *censusOfSample(*world);
    QVERIFY(census.unassigned > 1000 && census.firstHole);
    QCOMPARE(world->catalogue().materialId(world->at(*census.firstHole).material), kUnassignedId);
    uint64_t sum = 0;
    for (const MaterialShare& m : census.materials) sum += m.cells;
    QCOMPARE(sum, census.cells);
    QCOMPARE(found(*e, r), QStringList{"unassigned"});
  }

  void anAreaIsCountedCellByCell() {
    const auto e = engine();
    const auto world = *e->compile(demo());
    const Rect area{-300, 77, 301, 259};
    const auto census = *censusOf(*world, area);
    QCOMPARE(census.cells, uint64_t{301} * 259);
    std::map<std::string, uint64_t> counts;
    float low = 1e9f, high = -1e9f;
    for (int64_t z = 0; z < area.length; ++z)
      for (int64_t x = 0; x < area.width; ++x) {
        const CellValue value = world->at({area.x + x, area.z + z});
        ++counts[world->catalogue().materialId(value.material)];
        low = std::min(low, value.height);
        high = std::max(high, value.height);
      }
    for (const MaterialShare& m : census.materials) QCOMPARE(m.cells, counts[m.id]);
    for (const unsigned threads : {2u, 8u}) {
      acre::CensusOptions options;
      options.threads = threads;
      const auto again = *censusOf(*world, area, options);
      for (size_t i = 0; i < census.biomes.size(); ++i) {
        QCOMPARE(again.biomes[i].cells, census.biomes[i].cells);
        QCOMPARE(again.biomes[i].pieces, census.biomes[i].pieces);
      }
      QCOMPARE(again.mean, census.mean);
    }
    QCOMPARE(census.low, low);
    QCOMPARE(census.high, high);
    QVERIFY(!censusOf(*world, {0, 0, 0, 5}).ok());
    QVERIFY(!censusOf(*world, {0, 0, int64_t{1} << 40, 5}).ok());
    QVERIFY(!censusOf(*world, {kMaxCell, 0, 10, 10}).ok());
  }

  /// Shares, pieces and neighbours against a flood fill over the exported biome map.
  void biomesArePiecesOfTheirMap() {
    const auto e = engine();
    for (const unsigned variant : {2u, 22u}) {
      Recipe recipe = landWithBiomes(variant);
      recipe.frame.x = AxisBounds{-150, 310};  // Some of the area lies outside.
      const auto world = *e->compile(recipe);
      const Rect area{-190, 40, 301, 267};
      const AreaCensus census = *censusOf(*world, area);
      const auto width = static_cast<size_t>(area.width), height = static_cast<size_t>(area.length);
      std::vector<BiomeIndex> map(width * height);
      std::vector<uint32_t> regions(map.size());
      Land land;
      land.biomes = map.data();
      land.regions = regions.data();
      QVERIFY(world->sample({area.x, area.z, 1, 301, 267}, land).ok());
      struct Found {
        uint64_t cells = 0, pieces = 0, largest = 0;
        std::map<BiomeIndex, uint64_t> edges;
      };
      std::map<BiomeIndex, Found> expected;
      std::vector<bool> seen(map.size());
      const auto sides = [&](size_t at, auto&& visit) {
        if (at % width > 0) visit(at - 1);
        if (at % width + 1 < width) visit(at + 1);
        if (at >= width) visit(at - width);
        if (at + width < map.size()) visit(at + width);
      };
      for (size_t at = 0; at < map.size(); ++at) {
        Found& f = expected[map[at]];
        ++f.cells;
        sides(at, [&](size_t other) { f.edges[map[other]] += map[other] != map[at]; });
        if (seen[at]) continue;
        uint64_t size = 0;
        std::vector<size_t> open = {at};
        seen[at] = true;
        while (!open.empty()) {
          const size_t here = open.back();
          open.pop_back();
          ++size;
          sides(here, [&](size_t other) {
            if (seen[other] || map[other] != map[at]) return;
            seen[other] = true;
            open.push_back(other);
          });
        }
        ++f.pieces;
        f.largest = std::max(f.largest, size);
      }
      double shares = 0;
      uint64_t counted = 0;
      for (const BiomeShare& b : census.biomes) {
        Found& f = expected[b.index];
        QCOMPARE(b.cells, f.cells);
        QCOMPARE(b.pieces, f.pieces);
        QCOMPARE(b.largest, f.largest);
        for (const Neighbour& n : b.neighbours) QCOMPARE(n.edges, f.edges[n.biome]);
        if (b.example) QCOMPARE(world->at(*b.example).biome, b.index);
        shares += b.share;
        counted += b.cells;
      }
      QCOMPARE(shares, 1.0);
      QCOMPARE(counted, census.cells);
      QCOMPARE(counted, expected[kNoBiome].cells + counted - expected[kNoBiome].cells);
      QVERIFY(expected[kOutsideBiome].cells > 1000);
      QCOMPARE(census.regions.has_value(), (variant & 4) != 0);
      if (!census.regions) continue;
      std::set<uint32_t> all(regions.begin(), regions.end()), rim;
      for (size_t at = 0; at < map.size(); ++at)
        if (at % width == 0 || at % width + 1 == width || at < width || at + width >= map.size())
          rim.insert(regions[at]);
      QCOMPARE(census.regions->cut, rim.size());
      QCOMPARE(census.regions->count, all.size() - rim.size());
      uint32_t binned = 0;
      for (const uint32_t n : census.regions->histogram) binned += n;
      QCOMPARE(uint64_t{binned}, census.regions->count);
    }
  }

  void biomeMistakesAreFoundAndTheirMendsWork() {
    const auto e = engine();
    Recipe r = landWithClimate();
    r.biomes.on = true;
    QCOMPARE(found(*e, r), QStringList{"no-biome"});
    r.biomes.list = {biomeOfId("a", 1), biomeOfId("b", 2)};
    r.biomes.areas = {areaOf("1", "a", -INFINITY, 0.2, -INFINITY, INFINITY)};
    QCOMPARE(found(*e, r), (QStringList{"unreachable", "uncovered"}));
    auto checks = *runChecks(*e, **e->compile(r));
    const Check& hole = checks.back();
    const auto world = *e->compile(r);
    QCOMPARE(world->at(*hole.place).biome, kNoBiome);
    hole.apply(r);
    r.biomes.areas.back().biome = "b";
    QCOMPARE(found(*e, r), QStringList());
    // The rest is covered: one more rule decides nothing.
    r.biomes.areas.push_back(areaOf("9", "a", -0.5, 0.5, -0.5, 0.5));
    QCOMPARE(found(*e, r), QStringList{"hidden-rule"});
    (*runChecks(*e, **e->compile(r))).front().apply(r);
    QCOMPARE(found(*e, r), QStringList());
    // Moisture made of temperature.
    r.climate.moisture.field.layers = {layerOf("same", FieldSource{kTemperatureId}, 0.8)};
    QCOMPARE(found(*e, r), QStringList{"correlated"});
    r = landWithClimate();
    r.biomes.on = true;
    r.biomes.list = {biomeOfId("a", 1)};
    r.biomes.areas = {areaOf("1", "a", -INFINITY, INFINITY, -INFINITY, INFINITY)};
    r.biomes.regions.on = true;
    r.biomes.regions.warp.cells = 100;
    QCOMPARE(found(*e, r), QStringList{"cut-regions"});
    (*runChecks(*e, **e->compile(r))).front().apply(r);
    QCOMPARE(found(*e, r), QStringList());
    acre::CensusOptions options;
    const auto census = *censusOf(**e->compile(r), {0, 0, 3000, 3000}, options);
    QVERIFY(census.regions->count > 60);
    // As the mend promises; cells that hang on by a corner alone may remain.
    QVERIFY(census.regions->islets <= 2 && census.regions->isletCells <= 4);
  }

  /// Shares told before equalising are those that the equalised world has.
  void equaliseKeepsItsPromise() {
    const auto e = engine();
    Recipe r = landWithClimate();
    r.biomes.on = true;
    for (int k = 0; k < 4; ++k) {
      const std::string id = "b" + std::to_string(k);
      r.biomes.list.push_back(biomeOfId(id, 7));
      r.biomes.areas.push_back(areaOf(id, id, k % 2 ? 0.4 : -INFINITY, k % 2 ? INFINITY : 0.4,
          k < 2 ? -INFINITY : 0.1, k < 2 ? 0.1 : INFINITY));
    }
    const auto before = *e->compile(r);
    const ChartSample sample = *chartSample(*before);
    QCOMPARE(sample.size(), size_t{65536});
    const auto told = chartCounts(
        before->biomes()->chart(), equalised(sample, true, r.climate.temperature), e->kernels(), 4);
    FieldRecipe& field = r.climate.temperature.field;
    field.layers.push_back(equaliseLayer(r.climate.temperature, field));
    const auto after = *e->compile(r);
    const auto taken = chartCounts(after->biomes()->chart(), *chartSample(*after), e->kernels(), 4);
    for (size_t k = 0; k < told.size(); ++k)
      QVERIFY(
          std::abs(static_cast<double>(told[k]) - static_cast<double>(taken[k])) < 0.005 * 65536);
    // A uniform axis: 30 % of it lies beyond 0.4.
    QVERIFY(std::abs(static_cast<double>(taken[2] + taken[4]) / 65536 - 0.3) < 0.005);
    const auto now = chartCounts(before->biomes()->chart(), sample, e->kernels(), 4);
    QVERIFY(std::abs(static_cast<double>(now[2]) - static_cast<double>(taken[2])) > 0.02 * 65536);
  }

  void figuresAreThoseOfTheLayer() {
    const auto e = engine();
    Recipe r;
    r.heights.layers = {noiseLayer(40)};
    r.heights.layers[0].offset = 3;
    const auto world = *e->compile(r);
    const auto whole = *figuresOf(*e, *world, r.heights);
    const auto layer = *layerFigures(*world, r.heights, "a");
    QVERIFY(whole.low < -4 && whole.high > 10 && std::abs(whole.mean - 3) < 0.2);
    QVERIFY(std::abs(layer.mean - whole.mean) < 0.5);
    QCOMPARE(layer.octaves.size(), size_t{1});
    QCOMPARE(layer.octaves[0].width, 40.0);
    QCOMPARE(std::accumulate(whole.histogram.begin(), whole.histogram.end(), 0u), 65536u);
    QVERIFY(whole.nanosPerCell > 0);
    QCOMPARE(whole.rough, 0.0);  // Ten over forty cells never steps over one.
    r.heights.layers[0].amplitude = 500;
    QVERIFY(figuresOf(*e, **e->compile(r), r.heights)->rough > 0.5);
    QVERIFY(!layerFigures(*world, r.heights, "none"));
  }
};

ACRE_SUITE(AuditTest)
#include "audit_test.moc"
