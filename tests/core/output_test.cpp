#include <png.h>

#include <QtTest>
#include <nlohmann/json.hpp>

#include "base/atomic_file.h"
#include "output/chunk_text.h"
#include "output/legend.h"
#include "output/map_writer.h"
#include "recipe/json.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"

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
  Recipe recipe_ = loadRecipe("saltfen-reach").value();

  std::shared_ptr<const World> world() { return engine_->compile(recipe_).value(); }
  std::string file(const char* name) { return dir_.filePath(name).toStdString(); }

 private slots:
  void init() { recipe_ = loadRecipe("saltfen-reach").value(); }

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
    QCOMPARE(png.texts.at("Fingerprint"), worldFingerprint(*w).hex());
    QCOMPARE(png.texts.at("Recipe id"), recipeId(recipe_).hex());
    QCOMPARE(png.texts.at("First cell"), "-300,200");
    // Row by row what the map paints for the same samples.
    const auto samples = sampleWithRim(*w, request.grid).value();
    const Palette palette(*w);
    std::vector<uint32_t> row(333);
    for (int32_t j = 0; j < 301; ++j) {
      palette.paintRow(PictureKind::Composite, samples, j, Unassigned::Hatched, row.data());
      for (size_t i = 0; i < row.size(); ++i) {
        const uint8_t* p = &png.rows[static_cast<size_t>(j)][3 * i];
        QCOMPARE((uint32_t{p[0]} << 16 | uint32_t{p[1]} << 8 | p[2]), row[i] & 0xFFFFFFu);
      }
    }
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
    request.show = PictureKind::Height;
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
    request.show = PictureKind::Height;
    QVERIFY(writeMap(*w, request, file("h.csv")).ok());
    const QStringList lines =
        QString::fromStdString(readWholeFile(file("h.csv"), 10000).value()).trimmed().split('\n');
    QCOMPARE(lines.size(), 3);
    for (int j = 0; j < 3; ++j)
      for (int i = 0; i < 4; ++i)
        QCOMPARE(lines[j].split(',')[i].toFloat(), w->at({-3 + 5 * i, 7 + 5 * j}).height);
    request.show = PictureKind::Material;
    QVERIFY(writeMap(*w, request, file("m.csv")).ok());
    const QStringList materials =
        QString::fromStdString(readWholeFile(file("m.csv"), 10000).value()).split('\n');
    QCOMPARE(materials[0].split(',')[0].toStdString(), w->materialId(w->at({-3, 7}).material));
  }

  void unassignedIsHatchedAndOutsideIsBare() {
    recipe_.bands.clear();
    recipe_.frame.x = AxisBounds{0, 20};
    const auto w = world();
    const auto samples = sampleWithRim(*w, {-8, 0, 1, 40, 1}).value();
    const Palette palette(*w);
    std::vector<uint32_t> row(40);
    palette.paintRow(PictureKind::Composite, samples, 0, Unassigned::Hatched, row.data());
    for (int64_t i = 0; i < 40; ++i) {
      const bool inside = i >= 8 && i < 28;
      QCOMPARE(row[static_cast<size_t>(i)], inside ? hatchAt(i - 8, 0) : kPaperColour);
    }
    palette.paintRow(PictureKind::Material, samples, 0, Unassigned::Transparent, row.data());
    QCOMPARE(row[10], 0u);
    QVERIFY(legendOf(*w, PictureKind::Composite).back().hatched);
  }

  void reliefStaysWithinItsLimits() {
    // However steep the ground, a material keeps its colour within the stated factors of linear
    // light.
    std::get<GradientSource>(recipe_.heights[2].source).amplitude = 5000;
    recipe_.bands = {{"all", {}, "heath"}};
    const auto w = world();
    const auto samples = sampleWithRim(*w, {0, 0, 1, 200, 200}).value();
    const Palette palette(*w);
    std::vector<uint32_t> row(200);
    const auto linear = [](uint32_t c) { return std::pow((c / 255.0 + 0.055) / 1.055, 2.4); };
    double low = 9, high = 0;
    for (int32_t j = 0; j < 200; ++j) {
      palette.paintRow(PictureKind::Composite, samples, j, Unassigned::Hatched, row.data());
      for (const uint32_t p : row) {
        const double factor = linear((p >> 16) & 255) / linear(0x92);
        low = std::min(low, factor);
        high = std::max(high, factor);
      }
    }
    QVERIFY2(low > 0.84 && low < 0.90, qPrintable(QString::number(low)));
    QVERIFY2(high < 1.12 && high > 1.06, qPrintable(QString::number(high)));
  }

  void heightTintsAreHalfOpenClasses() {
    const auto w = world();
    const Palette palette(*w);
    const auto& tints = palette.heightTints();
    QCOMPARE(tints.size(), size_t{12});
    for (size_t i = 1; i < tints.size(); ++i) QVERIFY(tints[i].below > tints[i - 1].below);
    QCOMPARE(tints[4].below, 0.0f);  // The sea level parts sea from land.
    QCOMPARE(legendOf(*w, PictureKind::Height).size(), tints.size());
    QCOMPARE(legendOf(*w, PictureKind::Composite).size(), recipe_.bands.size());
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
    bad.show = PictureKind::Material;
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
               w->materialId(chunk->materials[i]));
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

QTEST_APPLESS_MAIN(OutputTest)
#include "output_test.moc"
