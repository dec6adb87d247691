#include <QFile>
#include <QImage>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "cli/run.h"
#include "suite.h"

using nlohmann::json;

namespace {

/// A rectangle of numbers, as some file told it.
struct Numbers {
  int width = 0, height = 0;
  std::vector<double> values;
  double at(int i, int j) const { return values[static_cast<size_t>(j * width + i)]; }
};

QByteArray contentOf(const QString& file) {
  QFile in(file);
  if (!in.open(QIODevice::ReadOnly)) qFatal("no file %s", qPrintable(file));
  return in.readAll();
}

Numbers fromCsv(const QByteArray& text) {
  Numbers out;
  for (const QByteArray& line : text.split('\n')) {
    if (line.isEmpty()) continue;
    const auto cells = line.split(',');
    out.width = static_cast<int>(cells.size());
    ++out.height;
    for (const QByteArray& cell : cells) out.values.push_back(cell.toDouble());
  }
  return out;
}

Numbers fromRaw(const QByteArray& bytes, int width, int height) {
  Numbers out{width, height, {}};
  for (qsizetype at = 0; at + 4 <= bytes.size(); at += 4) {
    float v;
    std::memcpy(&v, bytes.constData() + at, 4);
    out.values.push_back(static_cast<double>(v));
  }
  return out;
}

/// The samples of a PGM of 16 bits.
Numbers fromPgm(const QByteArray& bytes) {
  Numbers out;
  qsizetype at = 0;
  QList<QByteArray> words;
  while (words.size() < 4) {  // P5, width, height, maximum; comments between.
    if (bytes[at] == '#') {
      at = bytes.indexOf('\n', at) + 1;
      continue;
    }
    qsizetype end = at;
    while (!isspace(bytes[end])) ++end;
    words << bytes.mid(at, end - at);
    at = end + 1;
  }
  out.width = words[1].toInt();
  out.height = words[2].toInt();
  for (; at + 2 <= bytes.size(); at += 2)
    out.values.push_back(
        static_cast<uint8_t>(bytes[at]) * 256.0 + static_cast<uint8_t>(bytes[at + 1]));
  return out;
}

}  // namespace

/// The verbs and formats of the command tell one and the same world.
class AgreementTest : public QObject {
  Q_OBJECT

  QTemporaryDir dir_;

  QString path(const QString& name) { return dir_.filePath(name); }
  /// Runs the command in this process; its output, or the end of the test.
  std::string run(const QStringList& args) {
    std::vector<std::string> list;
    for (const QString& arg : args) list.push_back(arg.toStdString());
    std::ostringstream out, err;
    if (const int code = acre::cli::run(list, out, err); code != 0)
      qFatal("%s: %s", qPrintable(args.join(' ')), err.str().c_str());
    return out.str();
  }
  QByteArray map(const QString& recipe, const QString& name, const QStringList& rest) {
    run(QStringList{"map", recipe, "--out", path(name)} + rest);
    return contentOf(path(name));
  }

 private slots:
  void formatsCarryTheSameHeights_data() {
    QTest::addColumn<QString>("recipe");
    QTest::addColumn<QStringList>("area");
    for (const char* demo : {"saltfen-reach", "first-steps"}) {
      QTest::addRow("%s, at home", demo)
          << QString(demo) << QStringList{"--centre", "40,-30", "--size", "61x43"};
      QTest::addRow("%s, far and coarse", demo)
          << QString(demo)
          << QStringList{"--centre", "-2000000000,2000000000", "--size", "33x70", "--step", "16"};
    }
  }
  void formatsCarryTheSameHeights() {
    QFETCH(QString, recipe);
    QFETCH(QStringList, area);
    const QStringList height = area + QStringList{"--show", "height"};
    const Numbers csv = fromCsv(map(recipe, "a.csv", height));
    const Numbers raw = fromRaw(map(recipe, "a.raw", height), csv.width, csv.height);
    QCOMPARE(raw.values.size(), csv.values.size());
    for (size_t i = 0; i < csv.values.size(); ++i)
      QCOMPARE(static_cast<float>(csv.values[i]), static_cast<float>(raw.values[i]));
    const auto head = json::parse(contentOf(path("a.raw.json")).toStdString());
    QCOMPARE(head["width"].get<int>(), csv.width);
    QCOMPARE(head["height"].get<int>(), csv.height);
    // 16 bits: within half a step of the range that was asked for.
    const QStringList range{"--range", "-300,300"};
    const Numbers pgm = fromPgm(map(recipe, "a.pgm", height + range));
    QCOMPARE(pgm.width, csv.width);
    QCOMPARE(pgm.values.size(), csv.values.size());
    for (size_t i = 0; i < csv.values.size(); ++i)
      QVERIFY(std::abs(pgm.values[i] / 65535 * 600 - 300 - csv.values[i]) < 600.0 / 65535 * 0.51);
    run(QStringList{"map", recipe, "--out", path("a.png"), "--format", "png16"} + height + range);
    const QImage png(path("a.png"));
    QCOMPARE(png.format(), QImage::Format_Grayscale16);
    for (int j = 0; j < csv.height; ++j)
      for (int i = 0; i < csv.width; ++i)
        QCOMPARE(static_cast<double>(reinterpret_cast<const quint16*>(png.constScanLine(j))[i]),
            pgm.at(i, j));
  }

  /// Each point of a contour lies on the line between two samples that the file of heights parts.
  void contoursLieOnTheHeights() {
    const QStringList area{"--centre", "300,120", "--size", "160x120"};
    const Numbers heights =
        fromRaw(map("saltfen-reach", "h.raw", area + QStringList{"--show", "height"}), 160, 120);
    const QByteArray svg = map("saltfen-reach", "h.svg", area + QStringList{"--contours", "4"});
    const QRegularExpression path_("data-level=\"([-0-9.]+)\"[^>]* d=\"([^\"]+)\"");
    const QRegularExpression point("([0-9.]+) ([0-9.]+)");
    int lines = 0, points = 0;
    for (auto match = path_.globalMatch(QString::fromUtf8(svg)); match.hasNext();) {
      const auto line = match.next();
      const double level = line.captured(1).toDouble();
      QCOMPARE(std::remainder(level, 4), 0.0);
      ++lines;
      for (auto at = point.globalMatch(line.captured(2)); at.hasNext(); ++points) {
        const auto p = at.next();
        const double x = p.captured(1).toDouble(), z = p.captured(2).toDouble();
        const int i = std::min(static_cast<int>(x), 158), j = std::min(static_cast<int>(z), 118);
        const double u = x - i, v = z - j;
        QVERIFY(u < 0.002 || u > 0.998 || v < 0.002 || v > 0.998);  // On an edge of the grid.
        const double value = (heights.at(i, j) * (1 - u) + heights.at(i + 1, j) * u) * (1 - v) +
                             (heights.at(i, j + 1) * (1 - u) + heights.at(i + 1, j + 1) * u) * v;
        const double steepest = std::max({std::abs(heights.at(i + 1, j) - heights.at(i, j)),
            std::abs(heights.at(i, j + 1) - heights.at(i, j)),
            std::abs(heights.at(i + 1, j + 1) - heights.at(i, j + 1)),
            std::abs(heights.at(i + 1, j + 1) - heights.at(i + 1, j))});
        QVERIFY(std::abs(value - level) < 0.002 * steepest + 0.001);
      }
    }
    QVERIFY(lines > 3 && points > 300);
  }

  /// With its rivers and objects the composite alone: each instruction set finds them anew, the
  /// plain one slowly.
  void threadsAndInstructionSetsChangeNoByte() {
    const QStringList area{"--centre", "-700,900", "--size", "300x200"};
    const QStringList dry{"--set", "/rivers/on=false", "--set", "/objects/on=false"};
    const auto bytes = [&](const QStringList& what) { return map("saltfen-reach", "t.png", what); };
    const QByteArray whole = bytes(area);
    QVERIFY(whole != bytes(area + dry));
    for (const QStringList& how : {QStringList{"--threads", "1"}, {"--threads", "8"}})
      QCOMPARE(bytes(area + how), whole);
    for (const char* show : {"composite", "height", "slope", "field:uplands", "layer:ridges"}) {
      const QStringList what = area + dry + QStringList{"--show", show};
      const QByteArray first = map("saltfen-reach", "t.png", what);
      for (const char* threads : {"1", "2", "8"})
        QCOMPARE(map("saltfen-reach", "t.png", what + QStringList{"--threads", threads}), first);
      for (const char* simd : {"plain", "sse4", "avx2"}) {
        std::ostringstream out, err;
        std::vector<std::string> args;
        for (const QString& a : QStringList{"map", "saltfen-reach", "--out", path("s.png")} + what +
                                    QStringList{"--simd", simd})
          args.push_back(a.toStdString());
        if (acre::cli::run(args, out, err) != 0) continue;  // Not on this machine.
        QCOMPARE(contentOf(path("s.png")), first);
      }
    }
  }

  /// Shares of the census are counts of the exported map of biomes; the other pictures of the stage
  /// agree with one another.
  void biomeSharesAreThoseOfTheExportedMap() {
    for (const char* demo : {"saltfen-reach", "patchwork-parish", "three-fields"}) {
      const QByteArray csv =
          map(demo, "b.csv", {"--centre", "1032,-2024", "--size", "64x48", "--show", "biome"});
      std::map<std::string, int> counts;
      for (const QByteArray& row : csv.split('\n'))
        for (const QByteArray& id : row.split(','))
          if (!id.isEmpty()) ++counts[id.toStdString()];
      const auto census =
          json::parse(run({"census", demo, "--area", "1000,-2048,64x48", "--json"}));
      int cells = 0;
      double shares = 0;
      for (const auto& biome : census["biomes"]) {
        QCOMPARE(biome["cells"].get<int>(), counts[biome["id"].get<std::string>()]);
        cells += biome["cells"].get<int>();
        shares += biome["share"].get<double>();
      }
      QCOMPARE(cells, 64 * 48);
      QVERIFY(std::abs(shares - 1) < 1e-9);
    }
    // Regions by number, borders by distance, and what is uncovered, cell by cell.
    const auto numbers = [&](const char* demo, const char* show) {
      std::vector<double> out;
      for (const QByteArray& row :
          map(demo, "n.csv", {"--centre", "40,40", "--size", "120x90", "--show", show}).split('\n'))
        for (const QByteArray& value : row.split(','))
          if (!value.isEmpty()) out.push_back(value.toDouble());
      return out;
    };
    const auto region = numbers("patchwork-parish", "region");
    const auto border = numbers("patchwork-parish", "border");
    QCOMPARE(region.size(), size_t{120 * 90});
    int across = 0;
    for (size_t k = 1; k < region.size(); ++k) {
      if (k % 120 == 0 || region[k] == region[k - 1]) continue;
      QVERIFY(std::min(border[k], border[k - 1]) < 2);
      ++across;
    }
    QVERIFY(across > 40);
    const auto open = numbers("three-fields", "uncovered");
    QVERIFY(std::count(open.begin(), open.end(), 1.0) > 100);
    QVERIFY(std::count(open.begin(), open.end(), 0.0) > 100);
  }

  void censusOfAnAreaIsThatOfItsFile() {
    const Numbers heights = fromRaw(
        map("saltfen-reach", "c.raw", {"--centre", "32,24", "--size", "64x48", "--show", "height"}),
        64, 48);
    const auto census =
        json::parse(run({"census", "saltfen-reach", "--area", "0,0,64x48", "--json"}));
    const auto [low, high] = std::minmax_element(heights.values.begin(), heights.values.end());
    QCOMPARE(census["heights"]["low"].get<double>(), *low);
    QCOMPARE(census["heights"]["high"].get<double>(), *high);
    double sum = 0;
    for (const double v : heights.values) sum += v;
    QVERIFY(std::abs(census["heights"]["mean"].get<double>() - sum / (64 * 48)) < 1e-6);
    // Materials, cell by cell.
    std::map<std::string, int> counted;
    for (int j = 0; j < 48; j += 13)
      for (int i = 0; i < 64; i += 17) {
        const auto at = json::parse(
            run({"info", "saltfen-reach", "--at", QString("%1,%2").arg(i).arg(j), "--json"}));
        ++counted[at["material"].get<std::string>()];
      }
    for (const auto& [material, n] : counted) {
      bool there = false;
      for (const auto& m : census["materials"])
        there = there || (m["id"] == material && m["cells"].get<int>() >= n);
      QVERIFY2(there, material.c_str());
    }
  }

  /// The chain of a plumb line, added up from its text alone, is the height of the picture.
  void plumbLinesAddUpToThePicture() {
    const Numbers heights = fromRaw(
        map("first-steps", "p.raw", {"--centre", "0,0", "--size", "64x64", "--show", "height"}), 64,
        64);
    for (int k = 0; k < 40; ++k) {
      const int i = (k * 37) % 64, j = (k * 23) % 64;
      const auto plumb = json::parse(run(
          {"plumb", "first-steps", "--at", QString("%1,%2").arg(i - 32).arg(j - 32), "--json"}));
      float sum = 0;
      for (const auto& layer : plumb["heights"]["layers"]) {
        QCOMPARE(layer["before"].get<float>(), sum);
        sum += layer["value"].get<float>();
        QCOMPARE(layer["after"].get<float>(), sum);
      }
      QCOMPARE(static_cast<double>(sum), heights.at(i, j));
      QCOMPARE(plumb["heights"]["height"].get<float>(), sum);
      // Its slope is that of the neighbours it names.
      const auto& n = plumb["heights"]["neighbours"];
      const double dx = (n["east"].get<double>() - n["west"].get<double>()) / 2;
      const double dz = (n["south"].get<double>() - n["north"].get<double>()) / 2;
      QVERIFY(std::abs(std::hypot(dx, dz) - plumb["heights"]["slope"].get<double>()) < 1e-5);
      if (i > 0) QCOMPARE(n["west"].get<double>(), heights.at(i - 1, j));
      if (j < 63) QCOMPARE(n["south"].get<double>(), heights.at(i, j + 1));
    }
  }

  void layersAddedOneByOneReachFarther() {
    // What a newcomer does: the broad layer alone, then detail upon it.
    const QStringList off{
        "--set", "/heights/layers/id:hills/on=false", "--set", "/heights/layers/id:bumps/on=false"};
    const auto rough = [&](const QStringList& sets) {
      const Numbers h = fromCsv(
          map("first-steps", "l.csv", QStringList{"--size", "200x200", "--show", "height"} + sets));
      double sum = 0;
      for (int j = 0; j < h.height; ++j)
        for (int i = 2; i < h.width; ++i)
          sum += std::abs(h.at(i, j) - 2 * h.at(i - 1, j) + h.at(i - 2, j));
      return sum;
    };
    const double one = rough(off), two = rough(off.mid(2)), three = rough({});
    QVERIFY(one < two && two < three);
  }

  void seedsAndSettingsBelongToTheFingerprint() {
    const auto print = [&](const QStringList& rest) {
      const auto info = json::parse(run(QStringList{"info", "first-steps", "--json"} + rest));
      return info["fingerprint"].get<std::string>();
    };
    const std::string first = print({});
    QCOMPARE(print({"--seed", "1"}), first);  // Its own.
    QVERIFY(print({"--seed", "2"}) != first);
    QVERIFY(print({"--set", "/heights/layers/id:hills/amplitude=11.5"}) != first);
    QVERIFY(print({"--set", "/frame/sea=0.5"}) != first);
    QCOMPARE(print({"--set", "/name=\"Another name\""}), first);  // Names make no ground.
    QCOMPARE(print({"--threads", "3"}), first);
  }
};

ACRE_SUITE(AgreementTest)
#include "agreement_test.moc"
