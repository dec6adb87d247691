#include <png.h>

#include <tiffio.h>

#include <QXmlStreamReader>
#include <QtTest>
#include <array>
#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <tuple>

#include "base/atomic_file.h"
#include "dry.h"
#include "output/carried_recipe.h"
#include "output/chunk_text.h"
#include "output/contours.h"
#include "output/ground_scale.h"
#include "output/legend.h"
#include "output/map_writer.h"
#include "output/shading.h"
#include "recipe/json.h"
#include "recipe/map_inks.h"
#include "recipe/object_recipe.h"
#include "suite.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

struct Decoded {
  uint32_t width = 0, height = 0;
  int depth = 0, colourType = 0;
  std::vector<std::vector<uint8_t>> rows;
  std::map<std::string, std::string> texts;
};

/// Reads a PNG back with the plain library.
Decoded decode(const std::string& name) {
  Decoded out;
  FILE* file = fopen(name.c_str(), "rb");
  png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
  png_infop info = png_create_info_struct(png);
  png_init_io(png, file);
  png_read_png(png, info, PNG_TRANSFORM_IDENTITY, nullptr);
  out.width = png_get_image_width(png, info);
  out.height = png_get_image_height(png, info);
  out.depth = png_get_bit_depth(png, info);
  out.colourType = png_get_color_type(png, info);
  png_bytepp rows = png_get_rows(png, info);
  for (uint32_t j = 0; j < out.height; ++j)
    out.rows.emplace_back(rows[j], rows[j] + png_get_rowbytes(png, info));
  png_textp texts = nullptr;
  int count = 0;
  png_get_text(png, info, &texts, &count);
  for (int i = 0; i < count; ++i) out.texts[texts[i].key] = texts[i].text;
  png_destroy_read_struct(&png, &info, nullptr);
  fclose(file);
  return out;
}

class OutputTest : public QObject {
  Q_OBJECT

  QTemporaryDir dir_;
  std::unique_ptr<Engine> engine_ = std::move(Engine::create({})).value();
  Recipe recipe_ = dryDemo("saltfen-reach");

  std::shared_ptr<const World> world() { return engine_->compile(recipe_).value(); }
  std::string file(const char* name) { return dir_.filePath(name).toStdString(); }

  /// The demo's ground without biomes, of one material, its last layer so high.
  Recipe hills(double amplitude) const {
    Recipe r = recipe_;
    r.biomes.on = false;
    r.heights.layers = {r.heights.layers.back()};
    r.heights.layers.back().amplitude = amplitude;
    r.slopes.clear();
    r.bands = {{"all", {}, "scree", {}}};
    return r;
  }
  static std::vector<uint32_t> painted(
      const World& world, const SampleGrid& grid, const Style& style) {
    const Samples samples = sampleWithRim(world, {}, grid).value();
    const Palette palette(world, {}, style);
    std::vector<uint32_t> out(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
    for (int32_t j = 0; j < grid.length; ++j)
      palette.paintRow(samples, j, Unassigned::Hatched, out.data() + ptrdiff_t{j} * grid.width);
    return out;
  }
  static double linear(uint32_t channel) {
    const double v = channel / 255.0;
    return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
  }

 private slots:
  void init() { recipe_ = dryDemo("saltfen-reach"); }

  void colourPictureHoldsItsPixelsAndItsOrigin() {
    const auto w = world();
    MapRequest request;
    request.grid = {-300, 200, 2, 333, 301};
    request.threads = 3;
    const auto report = writeMap(*w, request, file("a.png"));
    QVERIFY(report.ok());
    QCOMPARE(report->cells, int64_t{333 * 301});
    const Decoded png = decode(file("a.png"));
    QCOMPARE(png.width, 333u);
    QCOMPARE(png.height, 301u);
    QCOMPARE(png.depth, 8);
    QCOMPARE(png.texts.at("Seed"), "heather-41");
    QCOMPARE(png.texts.at("Title"), "Saltfen Reach");
    QCOMPARE(png.texts.at("Recipe id"), recipeId(recipe_).hex());
    QCOMPARE(png.texts.at("First cell"), "-300,200");
    // Row by row what the map paints for the same samples.
    const auto samples = sampleWithRim(*w, {}, request.grid).value();
    const Palette palette(*w, {});
    std::vector<uint32_t> row(333);
    for (int32_t j = 0; j < 301; ++j) {
      palette.paintRow(samples, j, Unassigned::Hatched, row.data());
      for (size_t i = 0; i < row.size(); ++i) {
        const uint8_t* p = &png.rows[static_cast<size_t>(j)][3 * i];
        QCOMPARE((uint32_t{p[0]} << 16 | uint32_t{p[1]} << 8 | p[2]), row[i] & 0xFFFFFFu);
      }
    }
  }

  /// Signs of objects on a picture, points in a file of lines.
  void objectsAreDrawn() {
    ObjectKind post;
    post.id = post.name = "post";
    post.ink = {255, 0, 255};
    post.distance = 12;
    recipe_.objects->kinds = {post};
    const auto w = world();
    MapRequest request;
    request.grid = {-300, 200, 2, 180, 150};
    QVERIFY(writeMap(*w, request, file("bare.png")).ok());
    request.objects = true;
    const auto report = writeMap(*w, request, file("signs.png"));
    const auto there = w->objects().in({-300, 200, 360, 300}).value();
    QCOMPARE(report->objects, there.size());
    QVERIFY(there.size() > 40);
    const Decoded bare = decode(file("bare.png")), png = decode(file("signs.png"));
    const auto at = [](const Decoded& of, int64_t x, int64_t z) {
      const uint8_t* p = &of.rows[static_cast<size_t>(z)][static_cast<size_t>(3 * x)];
      return std::array<uint8_t, 3>{p[0], p[1], p[2]};
    };
    size_t changed = 0;
    for (int64_t z = 0; z < 150; ++z)
      for (int64_t x = 0; x < 180; ++x) changed += at(bare, x, z) != at(png, x, z);
    QVERIFY(changed > there.size() && changed < there.size() * 60);
    for (const PlacedObject& one : there)
      QCOMPARE(at(png, (one.cell.x + 300) / 2, (one.cell.z - 200) / 2),
          (std::array<uint8_t, 3>{255, 0, 255}));
    // Strips cut none of them.
    request.grid = {-10, -700, 1, 300, 1100};
    QVERIFY(writeMap(*w, request, file("strips.png")).ok());
    const Decoded strips = decode(file("strips.png"));
    const auto all = w->objects().in({-10, -700, 300, 1100}).value();
    request.show.kind = PictureKind::Height;
    for (const PlacedObject& one : all)
      for (const int64_t dz : {-2, 0, 2})
        if (one.cell.z + dz >= -700 && one.cell.z + dz < 400)
          QCOMPARE(at(strips, one.cell.x + 10, one.cell.z + dz + 700),
              (std::array<uint8_t, 3>{255, 0, 255}));
    for (const auto& [name, format, mark] :
        {std::tuple("o.svg", MapFormat::Svg, "class=\"object\""),
            {"o.geojson", MapFormat::GeoJson, "\"kind\":\"object\""}}) {
      request.format = format;
      QCOMPARE(writeMap(*w, request, file(name))->objects, all.size());
      std::ifstream in(file(name));
      const std::string text{std::istreambuf_iterator<char>(in), {}};
      size_t told = 0;
      for (size_t k = text.find(mark); k != std::string::npos; k = text.find(mark, k + 1)) ++told;
      QCOMPARE(told, all.size());
    }
    request.grid.step = 5;
    request.show = {};
    request.format = MapFormat::Png8;
    QCOMPARE(writeMap(*w, request, file("no.png")).error().accepted, std::string("1 to 4"));
    recipe_ = dryDemo("saltfen-reach");
    request.grid.step = 1;
    QCOMPARE(writeMap(*world(), request, file("no.png")).error().where, std::string("--objects"));
  }

  void stripsAndThreadsDoNotShow() {
    const auto w = world();
    MapRequest request;
    request.grid = {-10, -700, 1, 300, 1100};  // Several strips.
    for (const unsigned threads : {1u, 2u, 8u}) {
      request.threads = threads;
      QVERIFY(writeMap(*w, request, file(("t" + std::to_string(threads)).c_str())).ok());
    }
    QVERIFY(decode(file("t1")).rows == decode(file("t2")).rows);
    QVERIFY(decode(file("t1")).rows == decode(file("t8")).rows);
  }

  void sixteenBitHeightsReadBack() {
    const auto w = world();
    MapRequest request;
    request.grid = {40, 50, 1, 70, 60};
    request.show.kind = PictureKind::Height;
    request.format = MapFormat::Png16;
    const auto report = writeMap(*w, request, file("h.png"));
    QVERIFY(report.ok());
    const Decoded png = decode(file("h.png"));
    QCOMPARE(png.depth, 16);
    QCOMPARE(png.colourType, PNG_COLOR_TYPE_GRAY);
    const double low = std::stod(png.texts.at("Height of 0")),
                 high = std::stod(png.texts.at("Height of 65535"));
    QCOMPARE(low, report->low);
    for (int64_t j = 0; j < 60; ++j)
      for (int64_t i = 0; i < 70; ++i) {
        const uint8_t* p = &png.rows[static_cast<size_t>(j)][static_cast<size_t>(2 * i)];
        const double height = low + (high - low) * (p[0] * 256 + p[1]) / 65535;
        QVERIFY(std::abs(height - static_cast<double>(w->at({40 + i, 50 + j}).height)) <=
                (high - low) / 65535 * 0.51);
      }
    request.range = {{0.0, 1.0}};  // Heights leave it: nothing is clamped in silence.
    const auto refused = writeMap(*w, request, file("h.png"));
    QVERIFY(!refused.ok());
    QCOMPARE(refused.error().where, "--range");
    QVERIFY(decode(file("h.png")).rows == png.rows);  // The old file is untouched.
  }

  void tablesHoldEveryCell() {
    const auto w = world();
    MapRequest request;
    request.grid = {-3, 7, 5, 4, 3};
    request.format = MapFormat::Csv;
    request.show.kind = PictureKind::Height;
    QVERIFY(writeMap(*w, request, file("h.csv")).ok());
    const QStringList lines =
        QString::fromStdString(readWholeFile(file("h.csv"), 10000).value()).trimmed().split('\n');
    QCOMPARE(lines.size(), 3);
    for (int j = 0; j < 3; ++j)
      for (int i = 0; i < 4; ++i)
        QCOMPARE(lines[j].split(',')[i].toFloat(), w->at({-3 + 5 * i, 7 + 5 * j}).height);
    request.show.kind = PictureKind::Material;
    QVERIFY(writeMap(*w, request, file("m.csv")).ok());
    const QStringList materials =
        QString::fromStdString(readWholeFile(file("m.csv"), 10000).value()).split('\n');
    QCOMPARE(materials[0].split(',')[0].toStdString(),
        w->catalogue().materialId(w->at({-3, 7}).material));
  }

  void unassignedIsHatchedAndOutsideIsBare() {
    recipe_.biomes.on = false;
    recipe_.bands.clear();
    recipe_.frame.x = AxisBounds{0, 20};
    const auto w = world();
    const auto samples = sampleWithRim(*w, {}, {-8, 0, 1, 40, 1}).value();
    const Palette palette(*w, {});
    std::vector<uint32_t> row(40);
    palette.paintRow(samples, 0, Unassigned::Hatched, row.data());
    for (int64_t i = 0; i < 40; ++i) {
      const bool inside = i >= 8 && i < 28;
      QCOMPARE(row[static_cast<size_t>(i)], inside ? hatchAt(i - 8, 0) : kPaperColour);
    }
    Palette(*w, {PictureKind::Material, {}, {}})
        .paintRow(samples, 0, Unassigned::Transparent, row.data());
    QCOMPARE(row[10], 0u);
    QVERIFY(legendOf(*w, {}).back().hatched);
  }

  /// Each sample of a picture of biomes is its biome's colour, lines where biomes meet, the hatch
  /// where there is none, paper outside the world.
  void biomesAreDrawnInTheirColours() {
    recipe_ = loadRecipe("three-fields").value();
    recipe_.frame.seaLevel = 1000;  // All is below the sea: flat colours.
    recipe_.frame.x = AxisBounds{-60, 200};
    const auto w = world();
    const SampleGrid grid{-90, 20, 3, 90, 40};
    const Picture picture{PictureKind::Biome, {}, {}, false};
    const Samples samples = sampleWithRim(*w, picture, grid).value();
    const Palette palette(*w, picture);
    std::vector<uint32_t> row(90);
    int lines = 0, hatched = 0, paper = 0, plain = 0;
    for (int32_t j = 0; j < 40; ++j) {
      palette.paintRow(samples, j, Unassigned::Hatched, row.data());
      for (int32_t i = 0; i < 90; ++i) {
        const Cell cell{grid.x + 3 * i, grid.z + 3 * int64_t{j}};
        const BiomeIndex here = w->at(cell).biome;
        const uint32_t drawn = row[static_cast<size_t>(i)];
        if (here == kOutsideBiome) {
          QCOMPARE(drawn, kPaperColour);
          ++paper;
          continue;
        }
        const bool line =
            w->at({cell.x + 3, cell.z}).biome != here || w->at({cell.x, cell.z + 3}).biome != here;
        if (line) {
          ++lines;
        } else if (here == kNoBiome) {
          QVERIFY(drawn == kHatchInk || drawn == kHatchPaper);
          ++hatched;
        } else {
          const Colour& c = w->catalogue().biome(here)->colour;
          QCOMPARE(drawn, 0xFF000000u | uint32_t{c.red} << 16 | uint32_t{c.green} << 8 | c.blue);
          ++plain;
        }
      }
    }
    QVERIFY(lines > 50 && hatched > 50 && paper > 200 && plain > 500);
    const auto warm = legendOf(*w, {PictureKind::Field, kTemperatureId, {}, false});
    QVERIFY(warm.front().text.ends_with(" °C"));
    const auto legend = legendOf(*w, picture);
    QCOMPARE(legend.front().text, std::string("Rye"));
    QVERIFY(
        std::any_of(legend.begin(), legend.end(), [](const LegendEntry& e) { return e.hatched; }));
    // Borders as lines over another picture stand where they stand here.
    const Picture over{PictureKind::Height, {}, {}, true};
    const Samples bare = sampleWithRim(*w, {PictureKind::Height, {}, {}, false}, grid).value();
    const Samples lined = sampleWithRim(*w, over, grid).value();
    QVERIFY(bare.values == lined.values);
    QVERIFY(lined.marks == samples.marks);
    // Without regions or biomes these pictures are refused by name.
    QVERIFY(!checkPicture(*w, {PictureKind::Region, {}, {}, false}).ok());
    recipe_.biomes.on = false;
    for (const PictureKind kind : {PictureKind::Biome, PictureKind::Uncovered, PictureKind::Border})
      QVERIFY(!checkPicture(*world(), {kind, {}, {}, false}).ok());
    QVERIFY(!sampleWithRim(*world(), over, grid).ok());
  }

  /// What coarse pictures leave out is named in their legends and files.
  void approximationsAreNamed() {
    recipe_ = dryDemo("patchwork-parish");
    QVERIFY(world()->approximations(4096).empty());
    recipe_.biomes.regions.islets = 8;
    Layer shore;
    shore.id = "shore";
    shore.source = WaterSource{20};
    recipe_.climate.moisture.field.layers.push_back(shore);
    const auto w = world();
    QVERIFY(w->approximations(4).empty());
    QCOMPARE(w->approximations(5),
        (std::vector<std::string>{"distance from water", "islets given back"}));
    const Picture picture{PictureKind::Biome, {}, {}, false};
    QCOMPARE(legendOf(*w, picture, 8).size(), legendOf(*w, picture, 1).size() + 2);
    const auto named = [&](int64_t step) {
      int found = 0;
      for (const auto& [key, value] : originTexts(*w, {0, 0, step, 8, 8}, "biome"))
        found += key == "Approximate";
      return found;
    };
    QCOMPARE(named(4), 0);
    QCOMPARE(named(8), 2);
  }

  void reliefStaysWithinItsLimits() {
    // However steep the ground, a material keeps its colour within the stated factors of linear
    // light.
    Recipe r = hills(5000);
    r.bands = {{"all", {}, "heath", {}}};
    const auto w = engine_->compile(r).value();
    Style style;
    style.relief = 1;
    double low = 9, high = 0;
    for (const uint32_t p : painted(*w, {0, 0, 1, 200, 200}, style)) {
      const double factor = linear((p >> 16) & 255) / linear(inks::kHeath.red);
      low = std::min(low, factor);
      high = std::max(high, factor);
    }
    QVERIFY2(low > 0.29 && low < 0.6, qPrintable(QString::number(low)));
    QVERIFY2(high < 1.32 && high > 1.1, qPrintable(QString::number(high)));
    // Without strength all ground is flat.
    style.relief = 0;
    for (const uint32_t p : painted(*w, {0, 0, 1, 200, 200}, style))
      QCOMPARE(p, opaqueInk(inks::kHeath));
  }

  /// Nine of ten slopes of a world stay below the stated angle, at any step.
  void reliefIsScaledByTheWorld() {
    const auto w = world();
    const GroundScale scale(w);
    constexpr double kDegree = 3.14159265358979323846 / 180;
    for (const int64_t step : {1, 4, 16, 128}) {
      const double steep = std::tan(GroundScale::kSteepDegrees * kDegree) /
                           static_cast<double>(scale.steepening(step));
      int64_t land = 0, below = 0;
      for (int64_t n = 0; n < 40; ++n) {
        const Cell corner{n * 7919 % 97 * 9000 - 400000, n * 104729 % 89 * 9000 - 400000};
        const Samples samples =
            sampleWithRim(*w, {PictureKind::Height, {}, {}}, {corner.x, corner.z, step, 80, 80})
                .value();
        const ptrdiff_t stride = samples.stride();
        for (int32_t j = 1; j <= 80; ++j)
          for (int32_t i = 1; i <= 80; ++i) {
            const float* h = samples.values.data() + j * stride + i;
            if (*h < static_cast<float>(w->seaLevel())) continue;
            ++land;
            below +=
                std::hypot(h[1] - h[-1], h[stride] - h[-stride]) / static_cast<float>(2 * step) <=
                static_cast<float>(steep);
          }
      }
      const double share = static_cast<double>(below) / static_cast<double>(land);
      QVERIFY2(std::abs(share - 0.9) < 0.06, qPrintable(QString::number(share)));
    }
    // A flat world has nothing to be steepened; one of a few cells is measured at any step.
    Recipe flat = hills(5);
    flat.heights.layers.clear();
    QCOMPARE(GroundScale(engine_->compile(flat).value()).steepening(1), 0.0f);
    Recipe small = hills(40);
    small.frame.x = AxisBounds{-4, 9};
    small.frame.z = AxisBounds{0, 9};
    const GroundScale few(engine_->compile(small).value());
    QVERIFY(few.steepening(1) > 0);
    QCOMPARE(few.steepening(1 << 20), 0.0f);
  }

  /// A world twice as high looks the same by its own scale; by that of the first it is steeper.
  void twoWorldsAreComparedByOneScale() {
    const auto low = engine_->compile(hills(20)).value(),
               high = engine_->compile(hills(40)).value();
    const SampleGrid grid{-500, 300, 2, 120, 90};
    const auto first = painted(*low, grid, {});
    const auto own = painted(*high, grid, {});
    Style kept;
    kept.scale = std::make_shared<const GroundScale>(low);
    const auto compared = painted(*high, grid, kept);
    int apart = 0, differ = 0;
    for (size_t n = 0; n < first.size(); ++n) {
      apart = std::max(
          apart, std::abs(static_cast<int>(first[n] & 255) - static_cast<int>(own[n] & 255)));
      differ += first[n] != compared[n];
    }
    QVERIFY2(apart <= 1, qPrintable(QString::number(apart)));
    QVERIFY(differ > static_cast<int>(first.size()) / 2);
    // Whatever the scale, water has the inks of the world's own materials.
    Recipe more = recipe_, fewer = recipe_;
    more.materials.insert(more.materials.begin(), {"tar", "Tar", {9, 9, 9}, MaterialState::Liquid});
    const auto wide = engine_->compile(more).value(), bare = engine_->compile(fewer).value();
    Style other;
    other.relief = 0;
    const SampleGrid coast{-1200, -900, 8, 100, 75};
    const auto alone = painted(*wide, coast, other);
    other.scale = std::make_shared<const GroundScale>(bare);
    QVERIFY(painted(*wide, coast, other) == alone);
    // By its own scale a picture is the same whoever holds it.
    QVERIFY(painted(*low, grid, kept) == first);
  }

  /// The parts of a picture are the picture, relief, depths and coasts included.
  void partsOfAPictureHaveNoSeams() {
    recipe_ = loadRecipe("saltfen-reach").value();
    const auto w = world();
    for (const int64_t step : {1, 8}) {
      const SampleGrid whole{-777 * step, 340 * step, step, 96, 70};
      const auto all = painted(*w, whole, {});
      for (const auto& [x, z, width, length] :
          {std::tuple(0, 0, 40, 31), std::tuple(40, 0, 56, 31), std::tuple(17, 31, 60, 39)}) {
        const auto part =
            painted(*w, {whole.x + x * step, whole.z + z * step, step, width, length}, {});
        for (int32_t j = 0; j < length; ++j)
          for (int32_t i = 0; i < width; ++i)
            QCOMPARE(part[static_cast<size_t>(j * width + i)],
                all[static_cast<size_t>((z + j) * whole.width + x + i)]);
      }
    }
  }

  /// Where coarse ground borders on other ground, a little of its ink is in it; fine pictures are
  /// the cells alone.
  void coarseEdgesAreSoft() {
    const auto w = world();
    Style plain;
    plain.relief = 0;
    for (const int64_t step : {1, 4}) {
      const SampleGrid grid{-400, -300, step, 160, 120};
      const Samples samples = sampleWithRim(*w, {}, grid).value();
      const auto pixels = painted(*w, grid, plain);
      const auto inkOf = [&](MaterialIndex m) {
        return opaqueInk(recipe_.materials[m - size_t{1}].colour);
      };
      const auto isWet = [&](MaterialIndex m) {
        return recipe_.materials[m - size_t{1}].state == MaterialState::Liquid;
      };
      int soft = 0, hard = 0;
      for (int32_t j = 0; j < grid.length; ++j)
        for (int32_t i = 0; i < grid.width; ++i) {
          const MaterialIndex* m = samples.things.data() + (j + 1) * samples.stride() + i + 1;
          if (isWet(*m)) continue;
          std::set<uint32_t> beside;
          for (const ptrdiff_t to :
              {ptrdiff_t{-1}, ptrdiff_t{1}, -samples.stride(), samples.stride()})
            if (!isWet(m[to]) && inkOf(m[to]) != inkOf(*m)) beside.insert(inkOf(m[to]));
          const uint32_t pixel = pixels[static_cast<size_t>(j * grid.width + i)];
          if (step == 1 || beside.empty()) {
            QCOMPARE(pixel, inkOf(*m));
            ++hard;
            continue;
          }
          QVERIFY(pixel != inkOf(*m));
          for (const int shift : {0, 8, 16}) {  // Nearer to its own than to any other.
            const auto part = [&](uint32_t p) { return static_cast<int>(p >> shift & 255); };
            int most = 0;
            for (const uint32_t other : beside)
              most = std::max(most, std::abs(part(other) - part(inkOf(*m))));
            QVERIFY(2 * std::abs(part(pixel) - part(inkOf(*m))) <= most + 2);
          }
          ++soft;
        }
      QVERIFY(hard > 1000);
      QCOMPARE(soft > 100, step > 1);
    }
  }

  /// Water darkens with its depth, without a step; where it ends there is ink.
  void waterIsDrawnByItsDepth() {
    const auto w = world();
    const SampleGrid grid{600, -700, 8, 200, 150};
    const Samples samples = sampleWithRim(*w, {}, grid).value();
    Style plain;
    plain.relief = 0;
    const auto pixels = painted(*w, grid, plain);
    const GroundScale scale(w);
    // The coast is where a side is dry.
    const auto isWet = [&](MaterialIndex m) {
      return recipe_.materials[m - size_t{1}].state == MaterialState::Liquid;
    };
    int coast = 0;
    const auto light = [](uint32_t p) {
      return 0.2126 * linear((p >> 16) & 255) + 0.7152 * linear((p >> 8) & 255) +
             0.0722 * linear(p & 255);
    };
    std::map<float, double> byDepth;
    for (int32_t j = 0; j < grid.length; ++j)
      for (int32_t i = 0; i < grid.width; ++i) {
        const auto at = static_cast<size_t>((j + 1) * samples.stride() + i + 1);
        const float depth = samples.depths[at];
        const double sea = w->seaLevel() - static_cast<double>(samples.values[at]);
        QCOMPARE(depth > 0, sea > 0);
        const MaterialIndex* m = samples.things.data() + at;
        const uint32_t pixel = pixels[static_cast<size_t>(j * grid.width + i)];
        if (depth > 0) {
          const uint32_t ink = scale.water().at(*m, depth);
          const bool ends = !(isWet(m[1]) && isWet(m[-1]) && isWet(m[samples.stride()]) &&
                              isWet(m[-samples.stride()]));
          coast += ends;
          QCOMPARE(pixel == ink, !ends);
          if (ends) QVERIFY(light(pixel) < light(ink));
          byDepth[depth] = light(ink);
        }
      }
    QVERIFY(byDepth.size() > 1000);
    double last = 1;
    for (const auto& [depth, lit] : byDepth) {
      QVERIFY2(lit <= last + 1e-9, qPrintable(QString::number(depth)));
      if (last < 1) QVERIFY2(last - lit < 0.05, qPrintable(QString::number(depth)));
      last = lit;
    }
    QVERIFY(byDepth.begin()->second > 3 * last);
    QVERIFY(coast > 100);
    // Lakes have depths of their own level, and no picture of numbers or bare materials has any.
    recipe_ = loadRecipe("saltfen-reach").value();
    const auto wet = world();
    const Samples lakes = sampleWithRim(*wet, {}, {-320, -200, 1, 640, 400}).value();
    const auto sea = static_cast<float>(wet->seaLevel());
    int fresh = 0;
    for (size_t n = 0; n < lakes.depths.size(); ++n)
      fresh += lakes.depths[n] > 0 && lakes.values[n] >= sea;
    QVERIFY(fresh > 0);
    QVERIFY(sampleWithRim(*w, {PictureKind::Material, {}, {}}, {0, 0, 1, 8, 8})->depths.empty());
  }

  /// A calm picture has the mean of the colours of the samples that each pixel covers.
  void calmPicturesAverageColours() {
    const auto w = world();
    MapRequest request;
    request.grid = {-640, 320, 8, 90, 70};
    for (const int calm : {2, 4}) {
      request.calm = calm;
      request.threads = 1;
      QVERIFY(writeMap(*w, request, file("calm.png")).ok());
      const Decoded png = decode(file("calm.png"));
      QCOMPARE(png.width, 90u);
      QCOMPARE(png.texts.at("Averaged"),
          "the colours of " + std::to_string(calm * calm) + " cells a pixel");
      const int64_t apart = 8 / calm;
      const SampleGrid fine{-640 - 4 + apart / 2, 320 - 4 + apart / 2, apart, 90 * calm, 70 * calm};
      const auto pixels = painted(*w, fine, {});
      for (int32_t j = 0; j < 70; ++j)
        for (int32_t i = 0; i < 90; ++i)
          for (int channel = 0; channel < 3; ++channel) {
            double sum = 0;
            for (int32_t k = 0; k < calm * calm; ++k)
              sum += linear(pixels[static_cast<size_t>(
                                (j * calm + k / calm) * fine.width + i * calm + k % calm)] >>
                                (16 - 8 * channel) &
                            255);
            const int is = png.rows[static_cast<size_t>(j)][static_cast<size_t>(3 * i + channel)];
            const double mean = sum / (calm * calm);
            QVERIFY(linear(static_cast<uint32_t>(std::max(0, is - 1))) <= mean + 1e-3 &&
                    linear(static_cast<uint32_t>(std::min(255, is + 1))) >= mean - 1e-3);
          }
      request.threads = 8;
      QVERIFY(writeMap(*w, request, file("again.png")).ok());
      QCOMPARE(readWholeFile(file("again.png"), 1 << 24).value(),
          readWholeFile(file("calm.png"), 1 << 24).value());
    }
    const auto refused = [&](const char* words) {
      const auto report = writeMap(*w, request, file("no.png"));
      return !report.ok() && report.error().where == "--calm" &&
             report.error().text().find(words) != std::string::npos;
    };
    request.calm = 3;  // No divisor of the step.
    QVERIFY(refused("divisor of --step"));
    request.calm = 5;
    QVERIFY(refused("1 to 4"));
    request.calm = 2;
    request.format = MapFormat::Tiff;
    request.show = *pictureNamed("height");
    QVERIFY(refused("png"));
  }

  /// A picture of a map has its world with it.
  void picturesCarryRecipes() {
    recipe_.name = "Reeds & <rushes>";
    const auto w = world();
    MapRequest request;
    request.grid = {0, 0, 1, 40, 30};
    QVERIFY(writeMap(*w, request, file("map.png")).ok());
    QVERIFY(isPicture(file("map.png")));
    QVERIFY(openRecipe(file("map.png")).value() == recipe_);
    QCOMPARE(openRecipe(file("map.png"), {{"/seed", "\"other\""}})->seed, std::string("other"));
    QVERIFY(writeFile(file("map.svg"),
        "<?xml version=\"1.0\"?>\n<svg width=\"9\">" + svgMetadata(recipe_) + "</svg>"));
    QVERIFY(openRecipe(file("map.svg")).value() == recipe_);
    // A recipe's own file is read as ever, whatever stands in it.
    recipe_.name = "<svg>";
    QVERIFY(writeRecipeFile(file("own.acre"), recipe_).ok());
    QVERIFY(!isPicture(file("own.acre")));
    QVERIFY(openRecipe(file("own.acre")).value() == recipe_);
    // Cut off, or of somebody else: one message that names the file.
    const std::string whole = readWholeFile(file("map.png"), 1 << 24).value();
    for (const size_t left : {size_t{9}, size_t{60}, size_t{700}}) {
      QVERIFY(writeFile(file("cut.png"), whole.substr(0, left)));
      const auto none = openRecipe(file("cut.png"));
      QVERIFY(!none);
      QVERIFY2(none.error().text().find("cut.png") != std::string::npos &&
                   none.error().text().find("carries no recipe") != std::string::npos,
          none.error().text().c_str());
    }
    QVERIFY(writeFile(file("bad.svg"), "<svg><metadata id=\"acre-recipe\">{ 1</metadata></svg>"));
    const auto bad = openRecipe(file("bad.svg"));
    QVERIFY(!bad);
    QVERIFY(bad.error().where.find("bad.svg") != std::string::npos);
  }

  /// The inks are told apart by all eyes, in light and in shade.
  void inksAreToldApart() {
    // Sight without the long, the middle or the short cones [Machado, Oliveira, Fernandes 2009].
    constexpr double kSights[4][9] = {{1, 0, 0, 0, 1, 0, 0, 0, 1},
        {0.152286, 1.052583, -0.204868, 0.114503, 0.786281, 0.099216, -0.003882, -0.048116,
            1.051998},
        {0.367322, 0.860646, -0.227968, 0.280085, 0.672501, 0.047413, -0.011820, 0.042940,
            0.968881},
        {1.255528, -0.076749, -0.178779, -0.078411, 0.930809, 0.147602, 0.004733, 0.691367,
            0.303900}};
    const auto seen = [&](const Colour& ink, double shade, const double* sight) {
      const double lit[] = {std::min(1.0, linear(ink.red) * shade),
          std::min(1.0, linear(ink.green) * shade), std::min(1.0, linear(ink.blue) * shade)};
      double rgb[3];
      for (int k = 0; k < 3; ++k)
        rgb[k] = std::clamp(
            sight[3 * k] * lit[0] + sight[3 * k + 1] * lit[1] + sight[3 * k + 2] * lit[2], 0.0,
            1.0);
      const auto f = [](double t) { return t > 0.008856 ? std::cbrt(t) : 7.787 * t + 16 / 116.0; };
      const double x = f((0.4124564 * rgb[0] + 0.3575761 * rgb[1] + 0.1804375 * rgb[2]) / 0.95047);
      const double y = f(0.2126729 * rgb[0] + 0.7151522 * rgb[1] + 0.0721750 * rgb[2]);
      const double z = f((0.0193339 * rgb[0] + 0.1191920 * rgb[1] + 0.9503041 * rgb[2]) / 1.08883);
      return std::array{116 * y - 16, 500 * (x - y), 200 * (y - z)};
    };
    for (const auto& sight : kSights)
      for (const double shade : {0.45, 0.6, 0.8, 1.0, 1.2})
        for (size_t a = 0; a < inks::kAll.size(); ++a)
          for (size_t b = 0; b < a; ++b) {
            const auto p = seen(inks::kAll[a], shade, sight), q = seen(inks::kAll[b], shade, sight);
            const double apart =
                std::sqrt((p[0] - q[0]) * (p[0] - q[0]) + (p[1] - q[1]) * (p[1] - q[1]) +
                          (p[2] - q[2]) * (p[2] - q[2]));
            QVERIFY2(apart >= 10, qPrintable(QString("%1 and %2: %3").arg(a).arg(b).arg(apart)));
          }
  }

  void heightTintsAreHalfOpenClasses() {
    const auto w = world();
    const Palette palette(*w, {});
    const auto& tints = palette.heightTints();
    QCOMPARE(tints.size(), size_t{12});
    for (size_t i = 1; i < tints.size(); ++i) QVERIFY(tints[i].below > tints[i - 1].below);
    QCOMPARE(tints[4].below, 0.0f);  // The sea level parts sea from land.
    QCOMPARE(legendOf(*w, {PictureKind::Height, {}, {}}).size(), tints.size());
    QCOMPARE(legendOf(*w, {}).size(), recipe_.bands.size() + recipe_.slopes.size());
  }

  void floatingPointPicturesReadBack() {
    recipe_.frame.x = AxisBounds{-1000, 1030};
    const auto w = world();
    MapRequest request;
    request.grid = {-20, 33, 3, 70, 90};
    for (const char* show : {"height", "slope", "field:uplands", "layer:ridges"}) {
      request.show = *pictureNamed(show);
      request.format = MapFormat::Tiff;
      QVERIFY(writeMap(*w, request, file("f.tif")).ok());
      request.format = MapFormat::Raw;
      QVERIFY(writeMap(*w, request, file("f.raw")).ok());
      const std::string raw = readWholeFile(file("f.raw"), 1 << 20).value();
      const auto header = nlohmann::json::parse(readWholeFile(file("f.raw.json"), 1 << 20).value());
      QCOMPARE(header["width"].get<int>(), 70);
      QCOMPARE(raw.size(), size_t{70} * 90 * 4);
      TIFF* tiff = TIFFOpen(file("f.tif").c_str(), "r");
      QVERIFY(tiff);
      uint32_t width = 0;
      uint16_t format = 0;
      TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &width);
      TIFFGetField(tiff, TIFFTAG_SAMPLEFORMAT, &format);
      QCOMPARE(width, 70u);
      QCOMPARE(int{format}, SAMPLEFORMAT_IEEEFP);
      QVERIFY(TIFFLastDirectory(tiff));
      std::vector<float> row(70);
      int outside = 0;
      for (uint32_t j = 0; j < 90; ++j) {
        QCOMPARE(TIFFReadScanline(tiff, row.data(), j, 0), 1);
        float values[72 * 3];
        MaterialIndex materials[72 * 3];
        QVERIFY(samplePicture(*w, request.show, {-20, 33 + 3 * int64_t{j}, 3, 70, 1},
            {values, materials, nullptr, 70})
                    .ok());
        for (size_t i = 0; i < 70; ++i) {
          float fromRaw = 0;
          std::memcpy(&fromRaw, raw.data() + (j * 70 + i) * 4, 4);  // Little-endian machines alone.
          outside += std::isnan(row[i]);
          QCOMPARE(std::isnan(row[i]), materials[i] == kOutside);
          QCOMPARE(std::isnan(fromRaw), materials[i] == kOutside);
          if (materials[i] == kOutside) continue;
          QCOMPARE(row[i], values[i]);
          QCOMPARE(fromRaw, values[i]);
        }
      }
      TIFFClose(tiff);
      QVERIFY(outside > 0);  // Columns from x = 30 on.
    }
  }

  void greyMapsAreTheSixteenBitPicture() {
    const auto w = world();
    MapRequest request;
    request.grid = {5, -9, 2, 31, 17};
    request.show.kind = PictureKind::Height;
    request.format = MapFormat::Png16;
    QVERIFY(writeMap(*w, request, file("g.png")).ok());
    request.format = MapFormat::Pgm;
    QVERIFY(writeMap(*w, request, file("g.pgm")).ok());
    const Decoded png = decode(file("g.png"));
    const std::string pgm = readWholeFile(file("g.pgm"), 1 << 20).value();
    QVERIFY(pgm.starts_with("P5\n# Software"));
    const size_t body = pgm.size() - size_t{31} * 17 * 2;
    QCOMPARE(pgm.substr(body - 12, 12), std::string("31 17\n65535\n"));
    for (size_t j = 0; j < 17; ++j)
      QVERIFY(std::memcmp(pgm.data() + body + j * 62, png.rows[j].data(), 62) == 0);
  }

  /// Closed or from rim to rim, on their level within what interpolation can do, higher ground to
  /// the right, and parting exactly the samples above from those below.
  void contoursLieOnTheirLevels() {
    const auto w = world();
    constexpr int kSide = 120;
    std::vector<float> values(kSide * kSide);
    QVERIFY(w->sample({-60, 300, 2, kSide, kSide}, values.data(), nullptr).ok());
    const double interval = 2.5;
    const auto lines = contours(values.data(), kSide, kSide, kSide, interval);
    QVERIFY(lines.size() > 10);
    const auto at = [&](int i, int j) { return values[static_cast<size_t>(j * kSide + i)]; };
    int closed = 0, crossings = 0;
    for (const ContourLine& line : lines) {
      closed += line.closed;
      QCOMPARE(line.level, std::round(line.level / interval) * interval);
      const ContourPoint& first = line.points.front();
      const ContourPoint& last = line.points.back();
      if (line.closed) {
        QVERIFY(first.x == last.x && first.z == last.z);
      } else {
        for (const ContourPoint& p : {first, last})
          QVERIFY(p.x == 0 || p.z == 0 || p.x == kSide - 1 || p.z == kSide - 1);
      }
      for (const ContourPoint& p : line.points) {
        const int i = static_cast<int>(p.x), j = static_cast<int>(p.z);
        const float fx = p.x - static_cast<float>(i), fz = p.z - static_cast<float>(j);
        QVERIFY(fx == 0 || fz == 0);  // On the line between two samples.
        const float a = at(i, j), b = fx > 0 ? at(i + 1, j) : fz > 0 ? at(i, j + 1) : a;
        const float value = a + (fx + fz) * (b - a);
        QVERIFY(std::abs(value - line.level) < 1e-3 + 1e-5 * std::abs(line.level));
      }
      crossings += static_cast<int>(line.points.size()) - (line.closed ? 1 : 0);
    }
    QVERIFY(closed > 0);
    // Every pair of neighbours that a level parts is crossed exactly once.
    int expected = 0;
    const auto classOf = [&](float v) {
      return static_cast<int>(std::floor(static_cast<double>(v) / interval));
    };
    for (int j = 0; j < kSide; ++j)
      for (int i = 0; i < kSide; ++i) {
        if (i + 1 < kSide) expected += std::abs(classOf(at(i, j)) - classOf(at(i + 1, j)));
        if (j + 1 < kSide) expected += std::abs(classOf(at(i, j)) - classOf(at(i, j + 1)));
      }
    QCOMPARE(crossings, expected);
    QVERIFY(contours(values.data(), 1, kSide, kSide, 1).empty());
    QVERIFY(contours(values.data(), kSide, kSide, kSide, 0).empty());
  }

  void contoursAndHeightsAgree() {
    const auto w = world();
    MapRequest request;
    request.grid = {0, 0, 1, 90, 70};
    request.show.kind = PictureKind::Height;
    request.format = MapFormat::Svg;
    request.style.contours = 4;
    const auto report = writeMap(*w, request, file("c.svg"));
    QVERIFY(report.ok() && report->lines > 0);
    QXmlStreamReader xml(QString::fromStdString(readWholeFile(file("c.svg"), 1 << 22).value()));
    size_t paths = 0;
    while (!xml.atEnd()) {
      if (xml.readNext() != QXmlStreamReader::StartElement || xml.name() != QStringLiteral("path"))
        continue;
      ++paths;
      const float level = xml.attributes().value(QStringLiteral("data-level")).toFloat();
      for (QString point : xml.attributes().value(QStringLiteral("d")).toString().split('L')) {
        point.remove('M').remove('Z');
        const QStringList xz = point.split(' ');
        const int i = static_cast<int>(xz[0].toFloat()), j = static_cast<int>(xz[1].toFloat());
        // Within the range of the square's corners.
        float low = 1e9f, high = -1e9f;
        for (int dj = 0; dj < 2; ++dj)
          for (int di = 0; di < 2; ++di) {
            const float h = w->at({i + di, j + dj}).height;
            low = std::min(low, h);
            high = std::max(high, h);
          }
        QVERIFY(level >= low - 0.01f && level <= high + 0.01f);
      }
    }
    QVERIFY(!xml.hasError());
    QCOMPARE(paths, report->lines);
    request.style.contours = 0;
    QCOMPARE(writeMap(*w, request, file("c.svg")).error().where, "--contours");
  }

  void picturesAreNamedBothWays() {
    for (const char* name : {"composite", "height", "grey", "slope", "material", "field:uplands",
             "layer:ridges", "layer:uplands/broad"}) {
      const auto picture = pictureNamed(name);
      QVERIFY2(picture.ok(), name);
      QCOMPARE(nameOf(*picture), std::string(name));
      QVERIFY2(checkPicture(*world(), *picture).ok(), name);
    }
    for (const char* name : {"", "heights", "field", "field:", "slope:x", "layer", "layer:none",
             "layer:none/broad", "field:none"}) {
      const auto picture = pictureNamed(name);
      QVERIFY2(!picture.ok() || !checkPicture(*world(), *picture).ok(), name);
    }
  }

  /// A slice shows the blocks of its level, and nothing else.
  void slicesShowTheirLevel() {
    auto engine = Engine::create({}).value();
    const auto blocks = engine->compile(dryDemo("swallet-edge")).value();
    for (const int64_t y : {-40, 0, 30}) {
      const auto picture = pictureNamed("slice:" + std::to_string(y));
      QVERIFY(picture.ok());
      QCOMPARE(picture->level, y);
      QCOMPARE(nameOf(*picture), "slice:" + std::to_string(y));
      QVERIFY(checkPicture(*blocks, *picture).ok());
      for (const int64_t step : {1, 4}) {
        const auto samples = sampleWithRim(*blocks, *picture, {-20, 33, step, 24, 17}).value();
        const Palette palette(*blocks, *picture);
        std::vector<uint32_t> row(24);
        for (int32_t j = 0; j < 17; ++j) {
          palette.paintRow(samples, j, Unassigned::Hatched, row.data());
          for (int32_t i = 0; i < 24; ++i) {
            const MaterialIndex is = blocks->blockAt({-20 + i * step, 33 + j * step}, y).material;
            QCOMPARE(samples.things[static_cast<size_t>((j + 1) * samples.stride() + i + 1)], is);
            QCOMPARE(
                row[static_cast<size_t>(i)], is == kOpen ? kOpenColour : palette.thingColour(is));
          }
        }
      }
    }
    for (const char* name : {"slice", "slice:", "slice:x", "slice:1.5", "slice:4 "})
      QVERIFY2(!pictureNamed(name).ok(), name);
    QVERIFY(!checkPicture(*blocks, *pictureNamed("slice:100000")).ok());
    QVERIFY(!legendOf(*blocks, *pictureNamed("slice:0"), 1).empty());
  }

  void theLightComesFromWhereItIsSaid() {
    recipe_.heights.layers.resize(1);
    recipe_.heights.layers[0] = {};
    recipe_.heights.layers[0].id = "ramp";
    recipe_.heights.layers[0].source = RampSource{Axis::X, 0, 1000};
    recipe_.heights.layers[0].amplitude = 500;  // Rises eastward.
    recipe_.fields.clear();
    recipe_.slopes.clear();
    recipe_.bands = {{"all", {}, "heath", {}}};
    const auto w = world();
    const auto samples = sampleWithRim(*w, {}, {100, 0, 1, 1, 1}).value();
    const auto lit = [&](double degrees) {
      uint32_t pixel = 0;
      Palette(*w, {}, {degrees, 0}).paintRow(samples, 0, Unassigned::Hatched, &pixel);
      return pixel & 255;
    };
    QVERIFY(lit(270) > lit(0));  // From the west, against the slope.
    QVERIFY(lit(0) > lit(90));
    QCOMPARE(lit(360), lit(0));
  }

  void requestsThatMakeNoSenseAreRefused() {
    const auto w = world();
    const auto refusedAt = [&](MapRequest request) {
      const auto result = writeMap(*w, request, file("never.png"));
      return result.ok() ? std::string("accepted") : result.error().where;
    };
    MapRequest request;
    request.grid = {0, 0, 1, 10, 10};
    MapRequest bad = request;
    bad.grid.width = 0;
    QCOMPARE(refusedAt(bad), "--size");
    bad.grid.width = 70000;
    QCOMPARE(refusedAt(bad), "--size");
    bad = request;
    bad.grid.x = kMaxCell;
    QCOMPARE(refusedAt(bad), "area");
    bad = request;
    bad.format = MapFormat::Png16;
    bad.show.kind = PictureKind::Material;
    QCOMPARE(refusedAt(bad), "--show");
    bad = request;
    bad.format = MapFormat::Csv;
    QCOMPARE(refusedAt(bad), "--show");
    bad = request;
    bad.range = {{5.0, 5.0}};
    QCOMPARE(refusedAt(bad), "--range");
    QVERIFY(!QFile::exists(dir_.filePath("never.png")));
  }

  void stoppingLeavesNoFile() {
    MapRequest request;
    request.grid = {0, 0, 1, 512, 2048};
    std::stop_source stop;
    request.stop = stop.get_token();
    request.progress = [&](double) { stop.request_stop(); };
    const auto result = writeMap(*world(), request, file("stopped.png"));
    QVERIFY(!result.ok());
    QCOMPARE(static_cast<int>(result.error().code), static_cast<int>(Error::Code::Cancelled));
    QVERIFY(!QFile::exists(dir_.filePath("stopped.png")));
  }

  void fullDisksAreNamed() {
    MapRequest request;
    request.grid = {0, 0, 1, 600, 600};
    const auto result = writeMap(*world(), request, "/dev/full");
    QVERIFY(!result.ok());
    QCOMPARE(result.error().where, "/dev/full");
  }

  void chunksAsTextHoldTheirCells() {
    const auto w = world();
    const auto chunk = w->chunk({-2, 3}).value();
    const auto json = nlohmann::json::parse(chunkJson(*w, *chunk));
    QCOMPARE(json["hash"].get<std::string>(), chunkHash(*w, *chunk).hex());
    QCOMPARE(json["heights"].size(), chunk->heights.size());
    for (size_t i = 0; i < chunk->heights.size(); ++i) {
      QCOMPARE(json["heights"][i].get<float>(), chunk->heights[i]);
      QCOMPARE(json["palette"][json["materials"][i].get<size_t>()].get<std::string>(),
          w->catalogue().materialId(chunk->materials[i]));
    }
    const QStringList lines = QString::fromStdString(chunkCsv(*w, *chunk)).trimmed().split('\n');
    QCOMPARE(lines.size(), 1 + 32 * 32);
    QCOMPARE(lines[0], "x,z,height,material");
    const QStringList last = lines.back().split(',');
    QCOMPARE(last[0].toLongLong(), -2 * 32 + 31);
    QCOMPARE(last[1].toLongLong(), 3 * 32 + 31);
    QCOMPARE(last[2].toFloat(), chunk->heights.back());
    QVERIFY(!writeChunk(*w, *chunk, file("c.txt")).ok());
    QVERIFY(writeChunk(*w, *chunk, file("c.csv")).ok());
  }
};

}  // namespace

ACRE_SUITE(OutputTest)
#include "output_test.moc"
