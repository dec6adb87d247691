#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>
#include <functional>
#include <map>
#include <set>

#include "base/hash.h"
#include "core/members.h"
#include "output/png.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

// Every member of every struct of the recipe, changed one at a time: it counts when recipes are
// compared, survives its file, and reaches the key of the stage that reads it.

using namespace acre;

namespace {

/// How many values an enumeration of the recipe has.
template <class E>
constexpr int kValues = std::is_same_v<E, WorldKind>        ? 4
                        : std::is_same_v<E, Basis>          ? 6
                        : std::is_same_v<E, Fractal>        ? 4
                        : std::is_same_v<E, CellularResult> ? 4
                        : std::is_same_v<E, Combine>        ? 9
                        : std::is_same_v<E, ChunkShape>     ? 2
                        : std::is_same_v<E, ChartRules>     ? 2
                        : std::is_same_v<E, Ore::Shape>     ? 2
                                                            : 3;

/// Walks the members of a recipe up to the one of a number, and changes that one.
class Change {
 public:
  /// target: counted from 0. attempt: which of the values that a member of its type may be changed
  /// to.
  Change(size_t target, int attempt, const std::vector<std::string>& words)
      : target_(target), attempt_(attempt), words_(words) {}

  bool met() const { return !member_.empty(); }  ///< There is such a member.
  bool tried() const { return tried_; }          ///< It has a value left to try.
  /// "Layer.amplitude", wherever the layer stands.
  const std::string& member() const { return member_; }
  const std::string& was() const { return was_; }  ///< A text, before.

  template <class T>
  void at(const std::string& member, T& value) {
    if constexpr (members::Of<T>::known) {
      structs_.insert(members::Of<T>::name);
      members::Of<T>::each(value, [&](std::string_view name, auto& inner) {
        at(std::string(members::Of<T>::name) + "." + std::string(name), inner);
      });
    } else if constexpr (std::is_same_v<T, bool>) {
      leaf(member, [&] { return attempt_ == 0 ? (value = !value, true) : false; });
    } else if constexpr (std::is_enum_v<T>) {
      leaf(member, [&] {
        if (attempt_ >= kValues<T>) return false;
        value = static_cast<T>(attempt_);
        return true;
      });
    } else if constexpr (std::is_floating_point_v<T>) {
      leaf(member, [&] { return number(value); });
    } else if constexpr (std::is_integral_v<T>) {
      leaf(member, [&] { return whole(value); });
    } else if constexpr (std::is_same_v<T, std::string>) {
      leaf(member, [&] { return text(value); });
    } else {
      inside(member, value);
    }
  }
  const std::set<std::string>& structs() const { return structs_; }

 private:
  template <class T>
  void inside(const std::string& member, std::optional<T>& value) {
    if (value) at(member, *value);
    leaf(member, [&] {
      return attempt_ == 0 ? (value ? value.reset() : void(value.emplace()), true) : false;
    });
  }
  template <class T>
  void inside(const std::string& member, std::vector<T>& values) {
    // Those at the front stand for all, but where each may be of a kind of its own.
    constexpr bool kinds = std::is_same_v<T, Layer> || std::is_same_v<T, LevelProcess> ||
                           std::is_same_v<T, LevelPlace> || std::is_same_v<T, ObjectKind>;
    for (size_t i = 0; i < (kinds ? values.size() : std::min<size_t>(values.size(), 2)); ++i)
      at(member, values[i]);
    leaf(member, [&] {
      if (attempt_ > 2 || values.empty()) return false;
      if (attempt_ == 0) values.pop_back();
      if (attempt_ == 1) values.erase(values.begin());
      if (attempt_ == 2) values.clear();
      return true;
    });
  }
  template <class... T>
  void inside(const std::string& member, std::variant<T...>& value) {
    std::visit([&](auto& held) { at(member, held); }, value);
  }
  template <class T>
  void inside(const std::string& member, Part<T>& value) {
    at(member, *value);
  }
  void inside(const std::string& member, Edits& value) {
    leaf(member, [&] {
      if (attempt_ > 0) return false;
      value = EditSet("1").with({{1, 0, 2, words_.front()}});
      return true;
    });
  }

  void leaf(const std::string& member, const std::function<bool()>& change) {
    if (count_++ != target_) return;
    member_ = member;
    tried_ = change();
  }
  bool number(double& value) const {
    const double tries[] = {value + 0.25, value - 0.25, value * 0.75, value + 1, value - 1,
        value + 8, value * 2, 0.5, value * 0.9, value * 1.05};
    if (attempt_ >= std::ssize(tries)) return false;
    value = tries[attempt_];
    return true;
  }
  template <class T>
  bool whole(T& value) const {
    const int64_t v = static_cast<int64_t>(value),
                  tries[] = {v + 1, v - 1, v + 2, v * 2, v + 8, v - 8, v / 2};
    if (attempt_ >= std::ssize(tries)) return false;
    value = static_cast<T>(tries[attempt_]);
    return true;
  }
  bool text(std::string& value) {
    was_ = value;
    std::vector<std::string> tries = {
        value + "x", "b3/s23", "B14-26/S13-26", "B5678/S5678", "B", ""};
    tries.insert(tries.end(), words_.begin(), words_.end());
    if (attempt_ >= std::ssize(tries)) return false;
    value = tries[static_cast<size_t>(attempt_)];
    return true;
  }

  size_t target_, count_ = 0;
  int attempt_;
  const std::vector<std::string>& words_;
  bool tried_ = false;
  std::string member_, was_;
  std::set<std::string> structs_;
};

/// Ids that a member may name.
std::vector<std::string> wordsOf(const Recipe& r) {
  std::vector<std::string> out;
  for (const Material& m : r.materials) out.push_back(m.id);
  for (const FieldRecipe& f : r.fields) out.push_back(f.id);
  for (const Biome& b : r.biomes.list) out.push_back(b.id);
  for (const Slice& s : r.biomes.slices) out.push_back(s.id);
  for (const LevelPlace& p : r.level->places) out.push_back(p.id);
  for (const LevelProcess& p : r.level->processes) out.push_back(p.id);
  for (const ObjectKind& k : r.objects->kinds) out.push_back(k.id);
  for (const TileSet& set : r.tiles->sets) out.push_back(set.id);
  out.insert(
      out.end(), {"temperature", "moisture", "", "a", "b", "##\n..\n", "b.png", "room-2.txt"});
  return out;
}

NoiseSource noise(double width) {
  NoiseSource out;
  out.width = width;
  out.octaves = 3;
  return out;
}
Layer layerOf(const std::string& id, const Source& source, double amplitude = 1) {
  Layer out;
  out.id = id;
  out.name = id;
  out.source = source;
  out.amplitude = amplitude;
  return out;
}

/// Columns with every kind of layer, the climate, biomes of both rules, regions, slopes and edges.
/// folder: gets a picture, and a second of the same size.
Recipe columns(const std::string& folder) {
  for (const char* name : {"a.png", "b.png"}) {
    auto file = PngWriter::create(folder + "/" + name, 16, 16, PngPixels::Grey16, {}).value();
    for (int j = 0; j < 16; ++j) {
      std::vector<uint16_t> row(16);
      for (int i = 0; i < 16; ++i)
        row[static_cast<size_t>(i)] =
            static_cast<uint16_t>(i * 4000 + (name[0] == 'b' ? j * 50 : 0));
      (void)file.rowGrey(row.data());
    }
    (void)file.finish();
  }
  Recipe r = loadRecipe("saltfen-reach").value();
  r.frame.x = AxisBounds{-4000, 8000};
  r.frame.z = AxisBounds{-4000, 8000};
  r.frame.seaShare = 0.3;
  FieldRecipe extra{"extra", "Extra", {}, {{-1, 0}, {1, 2}}, Clamp{-3, 3}};
  Layer first = layerOf("noise", noise(70));
  first.amplitude = 0.5;
  first.sampling = SamplingOffset{0.25, -3, true};
  first.warp = Warp{noise(40), 12, 2};
  first.curve = {{-1, -1}, {0, 0.2}, {1, 1}};
  first.clamp = Clamp{-0.8, 0.9};
  first.mask = Mask{"plain", -0.5, 0.9, 0.1};
  Layer cellular = layerOf("cells", noise(90));
  auto& cells = std::get<NoiseSource>(cellular.source);
  cells.basis = Basis::Cellular;
  cells.result = CellularResult::Difference;
  Layer smooth = layerOf("smooth", ConstantSource{0.2});
  smooth.combine = Combine::SmoothMaximum;
  Layer equal = layerOf("equal", noise(60));
  equal.equalise = true;
  extra.layers = {first, cellular, smooth, equal, layerOf("spread", EqualiseSource{}),
      layerOf("ramp", RampSource{}), layerOf("distance", DistanceSource{}),
      layerOf("island", IslandSource{false, 0, 0, 400, 100, 30, 120}),
      layerOf("field", FieldSource{"plain"}), layerOf("terrace", TerraceSource{0.5, 0.3}),
      layerOf("fold", FoldSource{0.1}), layerOf("rescale", RescaleSource{}),
      layerOf(
          "picture", PictureSource{"a.png", 0, 0, 40, true, PictureSource::Outside::Value, 0.2}),
      layerOf("other", PictureSource{"a.png"}), layerOf("latitude", LatitudeSource{}),
      layerOf("altitude", AltitudeSource{}, 0.01), layerOf("water", WaterSource{32}),
      layerOf("fresh", FreshWaterSource{})};
  r.fields.insert(
      r.fields.begin(), {{"plain", "Plain", {layerOf("plain", noise(50))}, {}, {}}, extra});
  r.climate.temperature.unit = "C";
  r.slopes = {{"steep", 1.5, Threshold{2, true, {}}, Threshold{60, false, {}}, r.materials[0].id},
      {"cliff", 2.5, Threshold{}, {}, r.materials[1].id}};
  r.bands[0].edge = {Edge::Kind::Noisy, 2, false, 24};
  r.bands[1].edge = {Edge::Kind::Dithered, 2, true, 24};
  Biome& one = r.biomes.list[0];
  one.bands = std::vector<Band>{
      {"own", Threshold{3, false, {}}, r.materials[1].id, {}}, {"rest", {}, r.materials[2].id, {}}};
  one.bandsOf.clear();
  one.tags = {"wet", "low"};
  one.ideal = IdealPoint{0.2, 0.1, 12.0, 1.5};
  r.biomes.list[1].bands.reset();
  r.biomes.list[1].bandsOf.clear();
  r.biomes.y = {"plain", -0.8, 0.9};
  r.biomes.regions.on = true;
  r.biomes.regions.warp.cells = 20;
  r.biomes.regions.warp.x = r.biomes.regions.warp.z = "plain";
  r.biomes.regions.islets = 6;
  Biome spare = r.biomes.list[1];
  spare.id = spare.name = "spare";
  r.biomes.list.push_back(spare);
  r.biomes.slices.insert(
      r.biomes.slices.begin(), {"deepest", "Deepest", Threshold{-500, false, {}}, {}});
  r.fields.push_back({"last", "Last", {}, {}, {}});
  Area painted;
  painted.id = "painted";
  painted.painting = Painting{
      4, 3, {r.biomes.list[0].id, r.biomes.list[1].id}, {0, 1, 2, 0, 1, 1, 2, 2, 0, 0, 1, 2}};
  r.biomes.areas.insert(r.biomes.areas.begin() + 1, painted);
  r.rivers->on = true;
  for (auto* material : {&r.rivers->water, &r.rivers->bed, &r.rivers->bank, &r.rivers->wet})
    *material = r.materials[0].id;
  r.rivers->courses.count = 2;
  return r;
}

/// Blocks with overhangs, layers, beds, ores and every kind of cave.
Recipe blocks() {
  Recipe r = loadRecipe("swallet-edge").value();
  r.frame.y = {-40, 72};  // Low, so that each world is made at once.
  r.frame.x = r.frame.z = AxisBounds{-500, 1000};
  r.rivers->courses.given = {{"a", {{-400, -400}, {0, 0}, {300, 200}}}};
  r.overhang.mask = Mask{r.fields.empty() ? "moisture" : r.fields[0].id, -0.5, 0.5, 0.2};
  r.layers[0].thickness = 1.5;
  r.rock.beds[0].thickness = 20;
  r.ores.resize(std::min<size_t>(r.ores.size(), 2));
  r.ores[0].hosts = {r.rock.beds[0].material};
  r.ores[0].curve = {{-30, 1}, {20, 0.4}};
  Caves& caves = *r.caves;
  caves.voids = {{"a", true, {noise(26), -0.12, 0.12}, NoiseBand{noise(30), -0.1, 0.2},
                     {{0, 0.4}, {20, 1}}, false},
      {"b", true, {noise(50), 0.42, 2}, {}, {}, true}};
  caves.kinds = {{"one", "One", 2, 20, -0.5, 0.5, r.materials[0].id, r.materials[1].id},
      {"two", "Two", {}, {}, {}, {}, {}, r.materials[2].id}};
  for (ObjectKind& kind : r.objects->kinds)
    if (!kind.caves.empty()) kind.caves = {"one"};
  caves.automata = {{"floors", true, false, "B6/S5", 0.5, 3, {-30, -20}},
      {"volume", true, true, "B14-26/S13-26", 0.52, 2, {}, 4, -38, -34}};
  return r;
}

/// With objects of every condition.
Recipe strewn(Recipe r) {
  ObjectKind first;
  first.id = first.name = "stone";
  ObjectKind second = first;
  second.id = "thorn";
  second.biomes = {{r.biomes.list[0].id, 3}};
  second.apart = {{"stone", 5}};
  second.beside = {{"bush", 30}};
  second.footing.emplace();
  second.ground = {r.materials[0].id};
  second.altitude = {1.0, 90.0};
  second.slope = {0.1, 2.0};
  second.shore = {1.0, 20.0};
  second.mouth = {1.0, 20.0};
  second.field = kHeightsId;
  second.within = {-50.0, 50.0};
  second.what = {{"small", "Small", 3}, {"large", "Large", 1}};
  ObjectKind other = first;
  other.id = "bush";
  other.amount = kHeightsId;
  other.curve = {{0, 0.25}, {20, 1}};
  ObjectKind well = first;
  well.id = "well";
  well.must.emplace();
  ObjectPiece heap;
  heap.id = heap.name = "heap";
  heap.layers = {{{"#.", "##"}}};
  heap.signs = {{"#", r.materials[0].id}, {"x", r.materials[1].id}};
  heap.anchor = PieceAnchor{0, 1};
  heap.over = {r.materials[1].id};
  ObjectPiece spare = heap;
  spare.id = spare.name = "spare";
  r.objects->pieces = {heap, spare};
  TreeStyle elm;
  elm.id = elm.name = "elm";
  elm.wood = elm.leaf = r.materials[0].id;
  elm.over = {r.materials[1].id};
  TreeStyle ash = elm;
  ash.id = ash.name = "ash";
  ash.wind = kHeightsId;
  TreeStyle third = elm;
  third.id = third.name = "third";
  r.objects->trees = {elm, ash, third};
  second.what[1].tree = "ash";
  other.tree = "elm";
  well.piece = "heap";
  second.what[0].piece = "heap";
  second.what[0].biomes = {r.biomes.list[0].id};
  second.what[0].floors = {1.0, 30.0};
  second.what[0].field = kHeightsId;
  second.what[0].within = {-40.0, 40.0};
  if (!r.caves->kinds.empty()) other.caves = {r.caves->kinds[0].id};
  second.what[0].attributes = well.attributes = {{"heavy", "yes"}};
  r.objects->kinds = {first, other, second, well};
  return r;
}

/// With sets of tiles drawn and in a picture, and two groups.
Recipe tiled(Recipe r) {
  TileSet drawn;
  drawn.id = drawn.name = "drawn";
  drawn.weights = {3, 1};
  drawn.cases = {{2, {1, 5}}};
  TileSet painted = drawn;
  painted.id = painted.name = "painted";
  painted.weights = {1, 2, 1};
  painted.picture = TilePicture{"tiles.png", 8, 0, TileAnchor::Centre, {1, 0, 2}};
  painted.without = {3};
  TileSet spare = drawn;
  spare.id = spare.name = "spare";
  r.tiles->sets = {drawn, painted, spare};
  r.tiles->groups = {{true, "low", "Low", {r.materials[0].id}, "drawn", TileRim::Same},
      {true, "high", "High", {r.materials[1].id}, "painted", TileRim::Inside}};
  return r;
}

Recipe side() {
  return loadRecipe("lantern-shelf").value();
}

/// A floor with every process.
/// folder: gets a room, and another.
Recipe floorOf(const std::string& folder) {
  std::ofstream(folder + "/room.txt") << "###\n#..\n###\n";
  std::ofstream(folder + "/room-2.txt") << "####\n#...\n####\n";
  Recipe r = loadRecipe("underkiln").value();
  NoiseWalls walls;
  walls.refill = false;
  walls.band.noise = noise(14);
  walls.band.low = 0.6;
  walls.band.high = 2;
  LevelRooms rooms;
  rooms.pieces = {{"cell", "#####\n#ab..\n#####\n", "", 2}, {"nook", "", "room.txt", 1}};
  r.level->processes.insert(r.level->processes.begin() + 1, {"walls", "Walls", true, walls});
  r.objects->kinds[0].noise = ObjectNoise{"walls", {-1.0, 2.0}};
  r.level->processes.insert(r.level->processes.begin() + 2, {"cells", "Cells", true, rooms});
  for (const auto& what : {LevelProcess{"fill", "Fill", true, FilledAutomaton{}},
           LevelProcess{"dig", "Dig", true, DiggingWalks{}},
           LevelProcess{"body", "Body", true, LevelBody{}},
           LevelProcess{"join", "Join", true, LevelSpaces{}},
           LevelProcess{"brooks", "Brooks", true, LevelCourses{}}})
    r.level->processes.push_back(what);
  LevelPlace& far = r.level->places[1];
  far.from = r.level->places[0].id;
  far.mark = "a";
  far.least = 2;
  far.most = 4000;
  return r;
}

}  // namespace

/// The tiles of cells of every material, in the corner of a bounded world.
std::vector<std::vector<uint16_t>> tilesOf(const World& world) {
  const Rect plane = world.tiles().plane();
  const bool bounded = world.bounded();
  const Rect cells{bounded ? plane.x - 2 : 0, bounded ? plane.z - 2 : 0, 24, 24};
  auto made = world.tiles().planesOf(cells, [](const Rect& asked, MaterialIndex* out) {
    for (int64_t n = 0; n < asked.width * asked.length; ++n)
      out[n] = static_cast<MaterialIndex>(mix64(static_cast<uint64_t>(n)) % 4);
    return done();
  });
  return made ? std::move(made->groups) : std::vector<std::vector<uint16_t>>();
}

class MemberTest : public QObject {
  Q_OBJECT

  /// What is known of a member by now.
  struct Known {
    bool compared = false;  ///< Recipes that differ in it are not equal.
    bool kept = false;      ///< It comes back from the file, and the recipe's id knows it.
    bool keyed = false;     ///< Some stage is made anew.
  };

 private slots:
  /// A member may lie idle where it stands (the jitter of noise that has no sites), so each counts
  /// that does all of it somewhere among recipes that hold everything.
  void everyMemberCounts() {
    std::map<std::string, Known> known;
    std::set<std::string> structs;
    QStringList refused, overkeyed;
    QTemporaryDir folder;
    const std::string at = folder.path().toStdString();
    for (const Recipe& asMade :
        {tiled(strewn(columns(at))), blocks(), side(), tiled(floorOf(at))}) {
      const auto read = recipeFromJson(recipeToJson(asMade));
      QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
      QVERIFY(*read == asMade);
      Recipe base = *read;
      base.folder = at;
      const std::vector<std::string> words = wordsOf(base);
      EngineOptions options;
      options.threads = 0;
      const auto engine = Engine::create(options).value();
      const auto world = engine->compile(base);
      QVERIFY2(world.ok(), world.ok() ? "" : world.error().text().c_str());
      const Digest id = recipeId(base);
      const auto compiled = [&] { return engine->poolFigures().compiled; };
      for (size_t target = 0;; ++target) {
        bool more = true;
        for (int attempt = 0; more; ++attempt) {
          Recipe changed = base;
          Change change(target, attempt, words);
          change.at("", changed);
          structs.insert(change.structs().begin(), change.structs().end());
          if (!change.met()) break;
          Known& member = known[change.member()];
          const bool eyes = isForEyes(change.member());
          if (!change.tried() || (member.compared && member.kept && (member.keyed || eyes))) {
            more = false;
            break;
          }
          // A painting has as many cells as columns and rows; what is not painted is of a biome.
          for (Area& area : changed.biomes.areas) {
            if (!area.painting && area.biome.empty()) area.biome = base.biomes.list[0].id;
            if (Painting* p = area.painting ? &*area.painting : nullptr;
                p && p->columns > 0 && p->rows > 0)
              p->cells.resize(static_cast<size_t>(p->columns) * static_cast<size_t>(p->rows));
          }
          for (AutomatonLayer& part : changed.caves->automata)
            if (part.volume) part.floors.clear();  // It has none.
          // Whoever names what has another id now names it so.
          if (attempt == 0 && change.member().ends_with(".id")) {
            std::string file = recipeToJson(base);
            const std::string old = '"' + change.was() + '"';
            for (size_t k = 0; (k = file.find(old, k)) != std::string::npos; k += old.size())
              file.replace(k, old.size(), '"' + change.was() + "x\"");
            const auto renamed = recipeFromJson(file);
            if (!renamed) continue;
            changed = *renamed;
            changed.folder = base.folder;
          }
          member.compared |= !(changed == base);
          if (!validate(changed)) continue;  // Not allowed; another value may be.
          const auto again = recipeFromJson(recipeToJson(changed));
          if (!again)
            refused << QString::fromStdString(change.member() + ": " + again.error().text());
          else
            member.kept |= *again == changed && recipeId(changed) != id;
          const uint64_t before = compiled();
          const auto other = engine->compile(changed, true);
          if (!other) continue;
          if (compiled() > before && eyes) overkeyed << QString::fromStdString(change.member());
          // The stage Caves is cheap to compile and kept in no pool: each world has its own.
          const bool own =
              isOfCaves(change.member()) && planOf(**other).caves() != planOf(**world).caves();
          // So is the stage Level of each world, made of a floor that is kept.
          const bool level =
              planOf(**other).parts().waterMaterials != planOf(**world).parts().waterMaterials ||
              !planOf(**other).level() != !planOf(**world).level();
          // And what stands on the ground, which is found as it is asked for.
          member.keyed |= compiled() > before || own || level || isOfObjects(change.member());
          member.keyed |= isOfTiles(change.member()) && tilesOf(**other) != tilesOf(**world);
        }
        if (more) break;
      }
    }
    QStringList equal, lost, unkeyed, unmet;
    for (const auto& [name, member] : known) {
      const QString n = QString::fromStdString(name);
      if (name == "Recipe.folder") {  // Where the file lies is no part of it.
        QVERIFY(!member.compared);
        continue;
      }
      if (!member.compared) equal << n;
      if (name == "Recipe.edits") continue;       // In a file of their own, and over all stages.
      if (name == "Recipe.generation") continue;  // There is one.
      // Where there is an end follows from the place among the others; what it holds is looked at.
      if (name == "Band.below" || name == "Slice.below") continue;
      if (name == "PieceSign.sign") continue;  // One character, that the drawing names.
      if (!member.kept) lost << n;
      // One that is gone makes no stage anew.
      if (name == "Recipe.fields" || name == "Tiling.sets") continue;
      if (!member.keyed && !isForEyes(name)) unkeyed << n;
    }
    for (const std::string& name : members::all())
      if (!structs.contains(name)) unmet << QString::fromStdString(name);
    QVERIFY2(refused.isEmpty(), qPrintable("valid, but not read: " + refused.join("\n")));
    QVERIFY2(unmet.isEmpty(), qPrintable("in no recipe here: " + unmet.join(' ')));
    QVERIFY2(equal.isEmpty(), qPrintable("equal without them: " + equal.join(' ')));
    QVERIFY2(lost.isEmpty(), qPrintable("lost in the file: " + lost.join(' ')));
    QVERIFY2(unkeyed.isEmpty(), qPrintable("in no key: " + unkeyed.join(' ')));
    QVERIFY2(overkeyed.isEmpty(), qPrintable("in a key for nothing: " + overkeyed.join(' ')));
    QVERIFY(known.size() > 250);
  }

 private:
  static bool isOfCaves(const std::string& member) {
    static const QRegularExpression caves(QRegularExpression::anchoredPattern(
        "(Caves|NoiseVoid|NoiseBand|Tunnels|AutomatonLayer|CaveKind)\\..*"));
    return caves.match(QString::fromStdString(member)).hasMatch();
  }
  static bool isOfObjects(const std::string& member) {
    static const QRegularExpression objects(QRegularExpression::anchoredPattern(
        "(Recipe\\.objects|(Objects|ObjectKind|ObjectApart|ObjectChoice|ObjectFooting|ObjectMust|"
        "ObjectNoise|"
        "ObjectPiece|TreeStyle|PieceLayer|PieceSign|PieceAnchor|BiomeDensity)\\..*)"));
    return objects.match(QString::fromStdString(member)).hasMatch();
  }
  static bool isOfTiles(const std::string& member) {
    static const QRegularExpression tiles(QRegularExpression::anchoredPattern(
        "(Recipe\\.tiles|(Tiling|TileGroup|TileSet|TileCaseWeights)\\..*)"));
    return tiles.match(QString::fromStdString(member)).hasMatch();
  }
  /// Names, colours and what only says how a world is cut: no stage reads them.
  static bool isForEyes(const std::string& member) {
    static const QRegularExpression eyes(QRegularExpression::anchoredPattern(
        ".*\\.name|Colour\\..*|.*\\.colour|AxisScale\\.unit.*|"
        "Frame\\.(chunkSize|shape)|Material\\.state|Biome\\."
        "tags|Recipe\\.fillDown|Notes\\..*|Layer\\.note|"
        "ObjectKind\\.(sign|ink)|ObjectAttribute\\..*|.*\\.attributes|"
        "TileDrawing\\..*|TilePicture\\..*|TileSet\\.(drawn|picture|without)"));
    return eyes.match(QString::fromStdString(member)).hasMatch();
  }
};

ACRE_SUITE(MemberTest)
#include "member_test.moc"
