#include <QProcess>
#include <QSize>
#include <QtEndian>
#include <QtTest>
#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "base/atomic_file.h"
#include "cli/run.h"
#include "recipe/json.h"
#include "recipe/water_recipe.h"
#include "suite.h"
#include "world/demos.h"

namespace {

struct Outcome {
  int code;
  std::string out, err;
};

/// The command in this process.
Outcome command(std::vector<std::string> args) {
  std::ostringstream out, err;
  const int code = acre::cli::run(args, out, err);
  return {code, out.str(), err.str()};
}

}  // namespace

class CommandTest : public QObject {
  Q_OBJECT

  QTemporaryDir dir_;
  std::string file(const char* name) { return dir_.filePath(name).toStdString(); }
  /// As the head of a PNG tells it.
  QSize pictureSize(const char* name) {
    QFile picture(dir_.filePath(name));
    if (!picture.open(QIODevice::ReadOnly)) return {};
    const QByteArray head = picture.read(24);
    const auto at = [&](qsizetype n) {
      return static_cast<int>(qFromBigEndian<quint32>(head.constData() + n));
    };
    return head.size() == 24 ? QSize(at(16), at(20)) : QSize();
  }

 private slots:
  void demosAreListed() {
    const Outcome plain = command({"demos"});
    QCOMPARE(plain.code, 0);
    QVERIFY(plain.out.find("saltfen-reach") != std::string::npos);
    const auto json = nlohmann::json::parse(command({"demos", "--json"}).out);
    QCOMPARE(json[0]["seed"].get<std::string>(), "1");
    QCOMPARE(json.size(), size_t{12});
    QCOMPARE(json[3]["seed"].get<std::string>(), "heather-41");
  }

  /// Floors of a level: chosen, tried under many seeds, counted.
  void levelsAreTried() {
    const Outcome all = command({"seeds", "underkiln", "--floor", "7", "--count", "60"});
    QCOMPARE(all.code, 0);
    QVERIFY2(all.out.starts_with("floor 7, seeds 1 to 60: 60 of 60 keep every condition; "),
        all.out.c_str());
    const std::vector<std::string> narrow = {
        "seeds", "underkiln", "--count", "40", "--set", "/level/places/id:lamp-store/least=150"};
    const Outcome some = command(narrow);
    QCOMPARE(some.code, 1);
    auto asJson = narrow;
    asJson.push_back("--json");
    const auto json = nlohmann::json::parse(command(asJson).out);
    const auto failing = json["failing"].get<size_t>();
    QVERIFY(failing > 0 && failing < 40);
    QCOMPARE(json["seeds"].size(), failing);
    QCOMPARE(static_cast<size_t>(std::count(some.out.begin(), some.out.end(), '\n')), failing + 1);
    // What failed is no world under that seed, and the others are.
    const std::string seed = json["seeds"][0]["seed"];
    QVERIFY(json["seeds"][0]["fault"].get<std::string>().find("lamp-store") != std::string::npos);
    const Outcome none = command(
        {"info", "underkiln", "--seed", seed, "--set", "/level/places/id:lamp-store/least=150"});
    QCOMPARE(none.code, 2);
    QVERIFY(none.err.find("there is no room for \"lamp-store\"") != std::string::npos);
    QCOMPARE(command({"seeds", "underkiln", "--threads", "1", "--count", "20", "--all"}).out,
        command({"seeds", "underkiln", "--threads", "8", "--count", "20", "--all"}).out);

    QVERIFY(command({"info", "underkiln", "--floor", "9"}).out.find("floor        9 of 1 to 20") !=
            std::string::npos);
    QVERIFY(command({"map", "underkiln", "--floor", "2", "--size", "40x40", "--out", file("2.png")})
                .code == 0);
    const auto census =
        nlohmann::json::parse(command({"census", "underkiln", "--floor", "3", "--json"}).out);
    QCOMPARE(census["level"]["floor"].get<int>(), 3);
    QCOMPARE(census["level"]["pieces"].get<int>(), 1);
    QVERIFY(census["level"]["margin"].get<int>() >= 4);
    QVERIFY(
        census["level"]["visited"].get<double>() * 20 < census["level"]["ofCells"].get<double>());
    QVERIFY(command({"census", "underkiln"}).out.find("% open in 1 piece,") != std::string::npos);
    const auto places = nlohmann::json::parse(command({"find", "underkiln", "--json"}).out);
    QCOMPARE(places["places"].size(), size_t{4});
    QVERIFY(places["courses"].empty());
    const char* brooks =
        R"(/level/processes=[{"id":"brooks","name":"Brooks","kind":"courses","count":3}])";
    const Outcome laid =
        command({"find", "underkiln", "--set", brooks, "--set", "/level/places=[]"});
    QVERIFY2(laid.out.find("Brooks 3 ") != std::string::npos, laid.err.c_str());
    const std::string at = std::to_string(places["places"][1]["at"][0].get<int64_t>()) + "," +
                           std::to_string(places["places"][1]["at"][1].get<int64_t>());
    const auto plumb =
        nlohmann::json::parse(command({"plumb", "underkiln", "--at", at, "--json"}).out);
    QCOMPARE(plumb["level"]["place"].get<std::string>(), "lamp-store");
    QCOMPARE(plumb["level"]["steps"].get<int>(), places["places"][1]["steps"].get<int>());
    const auto spaces = nlohmann::json::parse(
        command({"find", "underkiln", "--spaces", "-80,-60,160x120", "--json"}).out);
    QCOMPARE(spaces["spaces"].size(), size_t{1});
    QVERIFY(!spaces["spaces"][0]["openEnded"].get<bool>());
  }

  /// Floors are exported as any world is.
  void floorsAreExported() {
    for (const char* ending : {"json", "csv", "obj", "glb", "ply"})
      QCOMPARE(command({"chunk", "underkiln", "--at", "0,0", "--out",
                           file((std::string("floor.") + ending).c_str())})
                   .code,
          0);
    const Outcome one = command({"chunk", "underkiln", "--at", "0,0", "--hash"});
    QCOMPARE(one.code, 0);
    QVERIFY(
        one.out != command({"chunk", "underkiln", "--at", "0,0", "--hash", "--floor", "2"}).out);
    QCOMPARE(command({"section", "underkiln", "--from", "-70,0", "--to", "70,0", "--out",
                         file("cut.png")})
                 .code,
        0);
    QCOMPARE(command({"view", "underkiln", "--from", "0,30", "--y", "12", "--look", "0,-30",
                         "--size", "200x120", "--out", file("view.png")})
                 .code,
        0);
    const Outcome beyond = command({"chunk", "underkiln", "--at", "9,9", "--hash"});
    QCOMPARE(beyond.code, 2);
    QVERIFY(beyond.err.find("outside the world's bounds") != std::string::npos);
    QCOMPARE(command({"check", "underkiln"}).out.find("[open-steps]"), std::string::npos);
  }

  void badFloorsAreRefused() {
    const auto says = [](std::vector<std::string> args, const char* words) {
      const Outcome o = command(std::move(args));
      QCOMPARE(o.code, 2);
      QVERIFY2(o.err.find(words) != std::string::npos, o.err.c_str());
      QCOMPARE(std::count(o.err.begin(), o.err.end(), '\n'), 1);
    };
    says(
        {"info", "underkiln", "--floor", "21"}, "--floor: there is no floor 21; accepted: 1 to 20");
    says({"info", "saltfen-reach", "--floor", "1"}, "a world of the kind overland has no floors");
    says({"seeds", "first-steps"}, "only levels have floors");
    says({"seeds", "underkiln", "--count", "0"}, "--count");
    says({"seeds", "underkiln", "--from", "-1"}, "--from");
    says({"info", "underkiln", "--set", "/level/processes/0/fill=1.5"}, "0 to 1");
    says({"info", "underkiln", "--set", "/level/processes/0/steps=1e6"}, "0 to 1000");
    says({"info", "underkiln", "--set", "/level/processes/0/rule=BS"}, "/level/processes/0/rule");
    says({"info", "underkiln", "--set", "/frame/bounds/x=null"}, "a level without bounds");
  }

  /// Cave systems and open spaces with their figures; what lies under a hill says why.
  void cavesAreFound() {
    const auto list = nlohmann::json::parse(
        command({"find", "swallet-edge", "--near", "0,0", "--within", "900", "--json"}).out);
    QVERIFY(list["systems"].size() > 5);
    double last = 0;
    for (const auto& s : list["systems"]) {
      QVERIFY(s["distance"].get<double>() >= last && s["distance"].get<double>() <= 900);
      last = s["distance"].get<double>();
      QVERIFY(s["volume"].get<int>() > 500);
      QVERIFY(s["pieces"].get<int>() >= 1);
      double length = 0;
      for (const auto& p : s["passages"])
        if (p["kind"] != "shaft") length += p["length"].get<double>();
      QVERIFY(std::abs(length - s["length"].get<double>()) < 1e-6);
      QVERIFY(s["straightness"].get<double>() <= 1);
    }
    // The site of the first one, asked alone.
    const auto site = list["systems"][0]["site"];
    const std::string at =
        std::to_string(site[0].get<int64_t>()) + "," + std::to_string(site[2].get<int64_t>());
    const std::string y = std::to_string(site[1].get<int64_t>());
    const auto plumb = nlohmann::json::parse(
        command({"plumb", "swallet-edge", "--at", at, "--y", y, "--json"}).out);
    QCOMPARE(plumb["block"]["cave"].get<std::string>(), "swallets");
    const Outcome words = command({"plumb", "swallet-edge", "--at", at, "--y", y});
    QVERIFY2(words.out.find("main passage") != std::string::npos, words.out.c_str());
    const Outcome text = command({"find", "swallet-edge", "--within", "600", "--passages"});
    QCOMPARE(text.code, 0);
    QVERIFY(text.out.find("arm") != std::string::npos);
    // Straight tunnels are found and mended.
    const Outcome straight = command({"check", "swallet-edge", "--set", "/caves/tunnels/0/noise=0",
        "--set", "/caves/tunnels/0/shift=0", "--set", "/objects/on=false"});
    QVERIFY(straight.out.find("straight-tunnels") != std::string::npos);
    const auto spaces = nlohmann::json::parse(
        command({"find", "swallet-edge", "--spaces", "-64,-64,128x128", "--levels", "-90,40",
                    "--json", "--set", "/objects/on=false"})
            .out);
    uint64_t cells = ~uint64_t{0};
    bool ended = false, whole = false;
    for (const auto& s : spaces["spaces"]) {
      QVERIFY(s["cells"].get<uint64_t>() <= cells);
      cells = s["cells"].get<uint64_t>();
      (s["openEnded"].get<bool>() ? ended : whole) = true;
    }
    QVERIFY(ended && whole);
    const auto census =
        nlohmann::json::parse(command({"census", "swallet-edge", "--area", "-64,-64,128x128",
                                          "--json", "--set", "/objects/on=false"})
                                  .out);
    QCOMPARE(census["blocks"]["caves"].size(), size_t{3});
    QVERIFY(census["blocks"]["caves"][1]["cells"].get<uint64_t>() > 10'000);
    QCOMPARE(command({"find", "saltfen-reach"}).out, std::string("this world has no caves\n"));
    for (const auto& [args, place] :
        {std::pair(std::vector<std::string>{"--within", "0"}, "within"),
            {{"--near", "here"}, "--near"}, {{"--spaces", "0,0,9000x9000"}, "box"},
            {{"--spaces", "0,0,9x9", "--levels", "5,1"}, "--levels"}}) {
      std::vector<std::string> all = {"find", "swallet-edge"};
      all.insert(all.end(), args.begin(), args.end());
      const Outcome refused = command(all);
      QCOMPARE(refused.code, 2);
      QVERIFY2(refused.err.find(place) != std::string::npos, refused.err.c_str());
    }
  }

  /// Rivers and lakes around a place, as lines and as JSON; pictures say where they are left out.
  /// Objects listed, counted in the census and told in chunks alike.
  /// Seeds under which something is missing that has to be there.
  void seedsAreTriedForObjects() {
    const auto withAltitude = [](int least) {
      return QStringLiteral(R"(/objects={"kinds":[{"id":"well","name":"Well","density":1,)"
                            R"("distance":5,"must":{"square":256},"altitude":[%1,null]}]})")
          .arg(least)
          .toStdString();
    };
    const Outcome all =
        command({"seeds", "first-steps", "--count", "6", "--set", withAltitude(-900)});
    QCOMPARE(all.code, 0);
    QVERIFY2(all.out.starts_with("seeds 1 to 6: 6 of 6 have all that must be about the origin"),
        all.out.c_str());
    const Outcome none =
        command({"seeds", "first-steps", "--count", "3", "--json", "--set", withAltitude(900)});
    QCOMPARE(none.code, 1);
    const auto json = nlohmann::json::parse(none.out);
    QCOMPARE(json["failing"].get<int>(), 3);
    QCOMPARE(json["seeds"][0]["missing"].get<int>(), 4);
    QVERIFY(json["seeds"][0]["fault"].get<std::string>().starts_with(
        "Well is missing in 4 of 4 squares: "));
  }

  void objectsAreFound() {
    const std::string kinds =
        R"(/objects={"kinds":[{"id":"stone","name":"Stone","density":4,"distance":5}]})";
    const auto found = nlohmann::json::parse(
        command({"find", "first-steps", "--objects", "--within", "63", "--json", "--set", kinds})
            .out);
    const size_t count = found["objects"].size();
    QVERIFY(count > 10);
    const Outcome text =
        command({"find", "first-steps", "--objects", "--within", "63", "--set", kinds});
    QVERIFY2(text.out.starts_with(std::to_string(count) + " objects within 63 cells of 0,0"),
        text.err.c_str());
    const auto census = nlohmann::json::parse(
        command({"census", "first-steps", "--area", "-63,-63,127x127", "--json", "--set", kinds})
            .out);
    QCOMPARE(census["objects"][0]["count"].get<size_t>(), count);
    const auto at = found["objects"][0]["at"];
    const Outcome why = command({"plumb", "first-steps", "--at",
        std::to_string(at[0].get<int64_t>()) + "," + std::to_string(at[1].get<int64_t>()), "--set",
        kinds});
    QVERIFY2(why.out.find("stands here") != std::string::npos, why.out.c_str());
    // As files, and on a picture.
    for (const char* name : {"list.csv", "list.geojson", "list.json"}) {
      const std::string path = file(name);
      const Outcome written = command(
          {"find", "first-steps", "--objects", "--within", "63", "--out", path, "--set", kinds});
      QVERIFY2(
          written.out.starts_with(std::to_string(count) + " objects written"), written.err.c_str());
    }
    // A game gets the start with them.
    const auto list =
        nlohmann::json::parse(acre::readWholeFile(file("list.json"), 1 << 20).value());
    QCOMPARE(list["objects"].size(), count);
    const Outcome start = command({"find", "first-steps", "--start", "--json", "--set", kinds});
    QVERIFY(list["start"].is_array());
    QCOMPARE(list["start"], nlohmann::json::parse(start.out)["start"]);
    const std::string picture = file("signs.png");
    const Outcome drawn = command({"map", "first-steps", "--objects", "--size", "127x127", "--out",
        picture, "--json", "--set", kinds});
    QCOMPARE(nlohmann::json::parse(drawn.out)["objects"].get<size_t>(), count);
    // Far lists, other lists beside it, and worlds without any are refused in words.
    for (const auto& more : std::vector<std::vector<std::string>>{
             {"--within", "5000"}, {"--rivers"}, {"--set", "/objects/on=false"}}) {
      std::vector<std::string> words = {"find", "first-steps", "--objects", "--set", kinds};
      words.insert(words.end(), more.begin(), more.end());
      const Outcome refused = command(words);
      QCOMPARE(refused.code, 2);
      QVERIFY(refused.err.find("accepted: ") != std::string::npos);
    }
  }

  /// Maps of tiles, sets on sheets, counted and recognised; what is wrong is refused in words.
  void tilesAreDrawn() {
    const std::string map = file("tiles.png"), sheet = file("set.png");
    const Outcome drawn = command({"map", "underkiln", "--show", "tiles", "--centre", "0,0",
        "--size", "30x20", "--zoom", "8", "--out", map});
    QVERIFY2(drawn.code == 0, drawn.err.c_str());
    QCOMPARE(pictureSize("tiles.png"), QSize(240, 160));
    const Outcome one = command({"tiles", "underkiln", "brick", "--out", sheet, "--json"});
    const auto told = nlohmann::json::parse(one.out);
    QCOMPARE(one.code, 0);
    QCOMPARE(told["drawings"].get<int>(), 15);
    QCOMPARE(told["cases"].get<int>(), 47);
    QVERIFY(told["report"]["missing"].empty() && told["report"]["openRims"].get<int>() == 0);
    QVERIFY(told["groups"][0]["tiles"].get<int>() > 1000);
    QCOMPARE(pictureSize("set.png"), QSize(8 * 16, 4 * 16));  // 15 drawings, two of each.
    const Outcome known = command({"tiles", "saltfen-reach", "stone", "--out", sheet});
    QVERIFY2(known.code == 0, known.out.c_str());
    QVERIFY(known.out.find("all rims meet") != std::string::npos);
    const Outcome again =
        command({"tiles", "saltfen-reach", "stone", "--recognise", sheet, "--json"});
    const auto order = nlohmann::json::parse(again.out)["order"];
    for (int n = 0; n < 47; ++n) QCOMPARE(order[static_cast<size_t>(n)].get<int>(), n);
    const auto census = nlohmann::json::parse(
        command({"census", "underkiln", "--area", "-40,-30,80x60", "--json"}).out);
    QCOMPARE(census["tiles"]["cells"].get<int>(), 4800);
    QVERIFY(census["tiles"]["groups"].size() > 4);
    const auto refuses = [&](const std::vector<std::string>& args, const char* words) {
      const Outcome no = command(args);
      QCOMPARE(no.code, 2);
      QVERIFY2(no.err.find(words) != std::string::npos, no.err.c_str());
    };
    refuses({"map", "underkiln", "--show", "tiles", "--step", "2", "--out", map}, "--step");
    refuses({"map", "underkiln", "--zoom", "4", "--out", map}, "--show tiles");
    refuses({"map", "first-steps", "--show", "tiles", "--out", map}, "no tiles");
    refuses({"map", "underkiln", "--show", "tiles", "--size", "9000x9000", "--out", map}, "65536");
    refuses({"map", "underkiln", "--show", "tiles", "--out", file("a.csv")}, "ends in .png");
    refuses({"tiles", "underkiln", "lost"}, "there is no set \"lost\"");
    refuses({"tiles", "first-steps"}, "no sets of tiles");
    refuses({"tiles", "underkiln", "--recognise", file("none.png")}, "none.png");
  }

  /// Trees as pictures, shapes, volumes and figures; a round less is less of a tree.
  void treesGrow() {
    const std::string of = "swallet-edge";
    const auto figures = nlohmann::json::parse(
        command({"tree", of, "ash", "--seed", "4", "--out", file("t.png"), "--json"}).out);
    QVERIFY(figures["wood"].get<int>() > 50 && figures["leaves"].get<int>() > 100);
    QCOMPARE(pictureSize("t.png"), QSize(800, 800));
    QCOMPARE(
        command({"tree", of, "ash", "--sheet", "--size", "240x200", "--out", file("s.png")}).code,
        0);
    QCOMPARE(pictureSize("s.png"), QSize(240, 200));
    QCOMPARE(
        command({"tree", of, "ash", "--seed", "4", "--variant", "0", "--out", file("t.json")}).code,
        0);
    QFile text(dir_.filePath("t.json"));
    QVERIFY(text.open(QIODevice::ReadOnly));
    const auto tree = nlohmann::json::parse(text.readAll().toStdString());
    size_t wood = 0, leaves = 0;
    for (const auto& layer : tree["layers"])
      for (const std::string row : layer) {
        wood += static_cast<size_t>(std::count(row.begin(), row.end(), 'w'));
        leaves += static_cast<size_t>(std::count(row.begin(), row.end(), 'l'));
      }
    QCOMPARE(wood, figures["wood"].get<size_t>());
    QCOMPARE(leaves, figures["leaves"].get<size_t>());
    QCOMPARE(tree["skeleton"].size(), figures["nodes"].get<size_t>());
    for (const char* name : {"t.glb", "t.obj", "t.ply", "t.nrrd"}) {
      QCOMPARE(command({"tree", of, "pine", "--wind", "1", "--out", file(name)}).code, 0);
      QVERIFY(QFile(dir_.filePath(name)).size() > 500);
    }
    const auto young = nlohmann::json::parse(command(
        {"tree", of, "ash", "--seed", "4", "--rounds", "3", "--out", file("t.png"), "--json"})
                                                 .out);
    QCOMPARE(young["rounds"].get<int>(), 3);
    QVERIFY(young["nodes"].get<int>() < figures["nodes"].get<int>());
    // The census counts what grows, and lists say in what style.
    const auto census =
        nlohmann::json::parse(command({"census", of, "--area", "200,-200,96x96", "--json"}).out);
    int grown = 0;
    for (const auto& kind : census["objects"])
      if (kind.contains("wood")) {
        QVERIFY(kind["wood"].get<int>() > 20 * kind["count"].get<int>());
        grown += kind["count"].get<int>();
      }
    QVERIFY2(grown > 5, std::to_string(grown).c_str());
    const std::string list =
        command({"find", of, "--objects", "--near", "250,-150", "--within", "48", "--json"}).out;
    QVERIFY(list.find("\"tree\": \"ash\"") != std::string::npos);
    QCOMPARE(command({"tree", of, "ash", "--look", "0,91", "--out", file("t.png")}).code, 2);
    const Outcome unknown = command({"tree", of, "elm", "--out", file("t.png")});
    QCOMPARE(unknown.code, 2);
    QVERIFY(unknown.err.find("accepted: ash, hornbeam, pine, snag") != std::string::npos);
    QCOMPARE(command({"tree", "first-steps", "--out", file("t.png")}).code, 2);
    QCOMPARE(command({"tree", of, "ash", "--sheet", "--out", file("t.glb")}).code, 2);
    QCOMPARE(command({"tree", of, "ash", "--rounds", "-1", "--out", file("t.png")}).code, 2);
    QCOMPARE(command({"tree", of, "ash", "--wind", "2", "--out", file("t.png")}).code, 2);
  }

  void watersAreFound() {
    const std::string wet = "saltfen-reach";
    const auto rivers = nlohmann::json::parse(
        command({"find", wet, "--rivers", "--within", "1500", "--json"}).out)["rivers"];
    QVERIFY(rivers.size() > 10);
    for (const auto& r : rivers) {
      QVERIFY(r["line"].size() >= 2);
      QVERIFY(r["line"].front() == r["source"] && r["line"].back() == r["mouth"]);
      QVERIFY(r["drop"].get<double>() >= 0);
    }
    const Outcome text = command({"find", wet, "--rivers", "--within", "1500"});
    QCOMPARE(text.code, 0);
    QVERIFY(text.out.find(rivers[0]["name"].get<std::string>()) != std::string::npos);
    const Outcome lakes = command({"find", wet, "--lakes", "--within", "1500"});
    QVERIFY(lakes.out.find("deepest at") != std::string::npos);
    const Outcome dry = command({"find", "first-steps", "--rivers"});
    QVERIFY(dry.code != 0 && dry.err.find("stage Water") != std::string::npos);
    QVERIFY(command({"find", wet, "--rivers", "--lakes"}).code != 0);
    QVERIFY(command({"find", wet, "--lakes", "--within", "20001"}).code != 0);
    const Outcome plumb = command({"plumb", wet, "--at",
        fmt::format("{},{}", rivers[0]["source"][0].get<int>(), rivers[0]["source"][1].get<int>()),
        "--json"});
    const auto water = nlohmann::json::parse(plumb.out)["water"];
    QVERIFY(water["area"].get<int>() >= 14);
    // Lines of them, and what the census says of the same area.
    const Outcome lines = command(
        {"map", wet, "--size", "400x300", "--rivers", "--json", "--out", file("lines.geojson")});
    QCOMPARE(lines.code, 0);
    const auto written =
        nlohmann::json::parse(acre::readWholeFile(file("lines.geojson"), 1 << 24).value());
    QCOMPARE(written["features"].size(), nlohmann::json::parse(lines.out)["rivers"].get<size_t>());
    QVERIFY(command({"map", wet, "--rivers", "--out", file("lines.png")}).code == 2);
    QVERIFY(command({"map", "first-steps", "--rivers", "--out", file("lines.svg")}).code == 2);
    const auto census = nlohmann::json::parse(
        command({"census", wet, "--area", "-256,-256,512x512", "--json"}).out)["water"];
    QVERIFY(census["rivers"].get<int>() > 0 && census["cellsOfWater"].get<int>() > 1000);
    QCOMPARE(census["falls"].get<int>(), 0);
    const Outcome said = command({"census", wet, "--area", "-256,-256,512x512"});
    QVERIFY(said.out.find("spring here") != std::string::npos);
  }

  /// Ways through obstacles, with what became of each.
  void waysAreListed() {
    const std::vector<std::string> ways = {"find", "first-steps", "--ways", "--within", "900",
        "--set", R"(/rivers={"on":true,"courses":{"count":3,"share":0.35}})"};
    const Outcome text = command(ways);
    QCOMPARE(text.code, 0);
    QVERIFY(text.out.find("of 12 ways succeed") != std::string::npos);
    auto asJson = ways;
    asJson.push_back("--json");
    const auto json = nlohmann::json::parse(command(asJson).out);
    QCOMPARE(json["ways"].size(), size_t{12});
    size_t found = 0;
    for (const auto& way : json["ways"]) {
      found += way["fault"] == "none";
      if (way["fault"] != "none") {
        QVERIFY(text.out.find(way["fault"].get<std::string>()) != std::string::npos);
        continue;
      }
      QVERIFY(way["line"].size() > 50);
      for (size_t n = 1; n < way["line"].size(); ++n)
        QVERIFY(way["line"][n][2].get<double>() <= way["line"][n - 1][2].get<double>());
    }
    QCOMPARE(json["found"].get<size_t>(), found);
    QVERIFY(found < 12);
    const Outcome none = command({"find", "saltfen-reach", "--ways"});
    QVERIFY(none.code == 2 && none.err.find("rivers/courses/count") != std::string::npos);
    const Outcome absurd =
        command({"info", "saltfen-reach", "--set", R"(/rivers/courses={"count":1000000})"});
    QVERIFY(absurd.code == 2 && absurd.err.find("0 to 16") != std::string::npos);
  }

  /// Views, sections, chunks of blocks and plumb lines in depth, with what they refuse.
  void blocksAreShownCutAndWritten() {
    const auto view = nlohmann::json::parse(
        command({"view", "swallet-edge", "--from", "0,0", "--y", "80", "--look", "30,-25", "--size",
                    "320x200", "--distance", "96", "--out", file("v.png"), "--json"})
            .out);
    QVERIFY(view["faces"].get<int>() > view["rectangles"].get<int>());
    QVERIFY(QFileInfo(dir_.filePath("v.png")).size() > 2000);
    QCOMPARE(
        command({"view", "lantern-shelf", "--out", file("w.png"), "--distance", "64"}).code, 0);
    QCOMPARE(command({"view", "swallet-edge", "--out", file("v.jpg")}).code, 2);
    QCOMPARE(command({"view", "swallet-edge", "--from", "here", "--out", file("v.png")}).code, 2);
    QCOMPARE(command({"view", "swallet-edge", "--look", "0,91", "--out", file("v.png")}).code, 2);
    QCOMPARE(command({"view", "swallet-edge", "--size", "0x9", "--out", file("v.png")}).code, 2);
    const auto cut =
        nlohmann::json::parse(command({"section", "swallet-edge", "--from", "-100,5", "--to",
                                          "100,-40", "--out", file("s.png"), "--json"})
                                  .out);
    int64_t counted = 0;
    for (const auto& [id, n] : cut["counts"].items()) counted += n.get<int64_t>();
    QCOMPARE(counted, cut["columns"].get<int64_t>() * cut["levels"].get<int64_t>());
    QCOMPARE(
        command({"section", "swallet-edge", "--from", "1,1", "--to", "1,1", "--out", file("s.png")})
            .code,
        2);
    for (const char* ending : {"json", "csv", "nrrd", "obj", "ply", "glb"}) {
      const std::string name = file((std::string("c.") + ending).c_str());
      QCOMPARE(command({"chunk", "swallet-edge", "--at", "0,1,0", "--out", name}).code, 0);
      QVERIFY(QFileInfo(QString::fromStdString(name)).size() > 500);
    }
    QCOMPARE(command({"chunk", "lantern-shelf", "--at", "2,0", "--hash"}).code, 0);
    const Outcome wrong = command({"chunk", "swallet-edge", "--at", "0,0"});
    QCOMPARE(wrong.code, 2);
    QVERIFY(wrong.err.find("CX,CY,CZ") != std::string::npos);
    const Outcome high = command({"chunk", "swallet-edge", "--at", "0,99,0"});
    QCOMPARE(high.code, 2);
    QVERIFY(high.err.find("cy from -3 to 3") != std::string::npos);
    const auto plumb = nlohmann::json::parse(
        command({"plumb", "swallet-edge", "--at", "10,10", "--y", "-20", "--json"}).out);
    QCOMPARE(plumb["block"]["y"].get<int>(), -20);
    const auto census = nlohmann::json::parse(
        command({"census", "swallet-edge", "--area", "0,0,48x48", "--json"}).out);
    QCOMPARE(census["blocks"]["blocks"].get<int>(), 48 * 48 * 224);
    QCOMPARE(census["blocks"]["ores"].size(), size_t{5});
    QCOMPARE(
        nlohmann::json::parse(command({"info", "lantern-shelf", "--json"}).out)["kind"], "side");
    // What a recipe of blocks may not hold, with place and range.
    for (const auto& [set, place, range] :
        {std::tuple("/frame/chunk=512", "/frame/chunk", "4 to 128"),
            std::tuple("/frame/chunk=1", "/frame/chunk", "4 to 128"),
            std::tuple("/frame/bounds/y/extent=-5", "/frame/bounds/y/extent", "1 to 65536"),
            std::tuple("/frame/bounds/y/min=1e9", "/frame/bounds/y/min", "1000000"),
            std::tuple("/strata/ores/id:galena/share=0.89", "/strata/ores", "at most 90 %"),
            std::tuple("/strata/rock/beds=[]", "/strata/ores/0/hosts/0", "a bed of rock"),
            std::tuple(
                "/strata/rock/beds/1/material=moon", "/strata/rock/beds/1", "listed material"),
            std::tuple("/biomes/list/id:moor/layers={\"of\":\"fen\"}", "/biomes/list",
                "layers of its own"),
            std::tuple("/heights/overhang/reach=900", "/heights/overhang/reach", "1 to 64"),
            std::tuple("/water/material=tea", "/water/material", "listed material")}) {
      const Outcome refused = command({"info", "swallet-edge", "--set", set});
      QCOMPARE(refused.code, 2);
      QVERIFY2(refused.err.find(place) != std::string::npos, refused.err.c_str());
      QVERIFY2(refused.err.find(range) != std::string::npos, refused.err.c_str());
    }
  }

  void plumbExplainsACell() {
    const Outcome text = command({"plumb", "saltfen-reach", "--at", "120,40"});
    QCOMPARE(text.code, 0);
    QVERIFY(text.out.find("Broad rises") != std::string::npos);
    const auto json =
        nlohmann::json::parse(command({"plumb", "saltfen-reach", "--at", "120,40", "--json"}).out);
    QCOMPARE(json["heights"]["layers"].size(), size_t{4});
    const auto at =
        nlohmann::json::parse(command({"info", "saltfen-reach", "--at", "120,40", "--json"}).out);
    QCOMPARE(json["strata"]["material"].get<std::string>(), at["material"].get<std::string>());
    const Outcome against =
        command({"plumb", "saltfen-reach", "--at", "120,40", "--against", "-380,200"});
    QCOMPARE(against.code, 0);
    QVERIFY(against.out.find("Broad rises") != std::string::npos);
    QCOMPARE(command({"plumb", "saltfen-reach", "--at", "here"}).code, 2);
    QCOMPARE(command({"plumb", "saltfen-reach", "--at", "9000000000000000000,0"}).code, 2);
  }

  void censusCounts() {
    const auto sample = nlohmann::json::parse(command({"census", "saltfen-reach", "--json"}).out);
    QCOMPARE(sample["cells"].get<int>(), 65536);
    // Heights, uplands, five that objects read, temperature, moisture.
    QCOMPARE(sample["fields"].size(), size_t{9});
    QCOMPARE(sample["fields"][7]["id"].get<std::string>(), "temperature");
    QCOMPARE(sample["fields"][0]["layers"].size(), size_t{4});
    QCOMPARE(sample["fields"][0]["histogram"].size(), size_t{128});
    const auto area = nlohmann::json::parse(
        command({"census", "saltfen-reach", "--area", "-50,20,100x60", "--json"}).out);
    int sum = 0;
    for (const auto& m : area["materials"]) sum += m["cells"].get<int>();
    QCOMPARE(sum, 6000);
    for (const char* bad : {"0,0", "0,0,5", "0,0,0x5", "a,b,1x1", "0,0,1x1x1"})
      QCOMPARE(command({"census", "saltfen-reach", "--area", bad}).code, 2);
  }

  void provePrintsAFingerprintThatThreadsDoNotChange() {
    const Outcome all = command({"prove", "first-steps", "--side", "24"});
    QCOMPARE(all.code, 0);
    QVERIFY(all.out.find("BROKEN") == std::string::npos);
    QVERIFY(all.out.find("second evaluator") != std::string::npos);
    // Rivers and objects would take most of its time; proof_test holds them under other threads.
    const auto bare = [&](const char* option, const char* value) {
      std::vector<std::string> words = {"prove", "saltfen-reach", "--side", "40", "--set",
          "/rivers/on=false", "--set", "/objects/on=false", option};
      if (value) words.emplace_back(value);
      return command(words).out;
    };
    const auto one = nlohmann::json::parse(bare("--json", "--threads=1"));
    const auto eight = nlohmann::json::parse(bare("--json", "--threads=8"));
    QVERIFY(one["holds"].get<bool>());
    QCOMPARE(one["fingerprint"], eight["fingerprint"]);
    QCOMPARE(one["areas"], eight["areas"]);
    const std::string alone = bare("--fingerprint", nullptr);
    QVERIFY(alone.starts_with(one["fingerprint"].get<std::string>()));
    for (const auto& area : one["areas"])
      QVERIFY(alone.find(area["hash"].get<std::string>()) != std::string::npos);
    QVERIFY(bare("--fingerprint", "--seed=other") != alone);
  }

  /// The real command, which starts itself a second time.
  void proveAsksASecondProcess() {
    QProcess process;
    process.start(ACRE_COMMAND, {"prove", "three-fields", "--side", "24", "--area",
                                    "-7,2000000000,30x20", "--seed", "1 2"});
    QVERIFY(process.waitForFinished());
    QCOMPARE(process.exitCode(), 0);
    const QString out = QString::fromUtf8(process.readAllStandardOutput());
    QVERIFY2(out.contains("A second process finds the same"), qPrintable(out));
    QVERIFY(out.contains("area -7,2000000000,30x20"));
    QVERIFY(!out.contains("BROKEN"));
  }

  void proveRefusesInWords() {
    for (const std::vector<std::string>& bad : {std::vector<std::string>{"--side", "0"},
             {"--side", "5000"}, {"--area", "here"}, {"--area", "0,0,9000x1"}, {"--threads", "512"},
             {"--area", "9000000000000000000,0,4x4"}}) {
      std::vector<std::string> args{"prove", "first-steps"};
      args.insert(args.end(), bad.begin(), bad.end());
      const Outcome said = command(args);
      QCOMPARE(said.code, 2);
      QCOMPARE(std::count(said.err.begin(), said.err.end(), '\n'), 1);
      QVERIFY2(said.err.find("accepted") != std::string::npos, said.err.c_str());
    }
  }

  void traverseWritesTablesSideBySide() {
    const std::string csv = file("run.csv"), all = file("run.json");
    const Outcome two = command({"traverse", "saltfen-reach", "--seconds", "0.5", "--view", "96",
        "--route", "zigzag", "--threads", "1", "--against", "threads=2", "--against", "chunk=16",
        "--csv", csv, "--out", all});
    QCOMPARE(two.code, 0);
    QVERIFY2(two.out.find("A: chunks of 32, 1 thread") == 0, two.out.c_str());
    QVERIFY(two.out.find("B: chunks of 16, 2 threads") != std::string::npos);
    for (const char* name : {"run-A.csv", "run-B.csv"}) {
      QFile table(QString::fromStdString(file(name)));
      QVERIFY(table.open(QIODevice::ReadOnly));
      QCOMPARE(table.readAll().count('\n'), 31);  // 30 frames and the heading.
    }
    QFile whole(QString::fromStdString(all));
    QVERIFY(whole.open(QIODevice::ReadOnly));
    const auto json = nlohmann::json::parse(whole.readAll().toStdString());
    QCOMPARE(json.size(), size_t{2});
    QCOMPARE(json[1]["settings"]["chunk"].get<int>(), 16);
    QCOMPARE(json[1]["settings"]["ahead"].get<int>(), 64);
    QCOMPARE(json[0]["frameRows"].size(), size_t{30});
    const Outcome fast = command({"traverse", "first-steps", "--fast", "--seconds", "1", "--view",
        "64", "--json", "--threads", "0"});
    QCOMPARE(fast.code, 0);
    QVERIFY(nlohmann::json::parse(fast.out)[0]["figures"][1]["value"].is_null());
  }

  void traverseTellsWhatIsNeededNearer() {
    const Outcome run = command({"traverse", "saltfen-reach", "--seconds", "0.3", "--view", "96",
        "--collision", "32", "--objects", "64", "--set", "/rivers/on=false"});
    QVERIFY2(run.code == 0, run.err.c_str());
    QVERIFY2(run.out.find("collision, worst") != std::string::npos, run.out.c_str());
    QVERIFY(run.out.find("objects within 64 cells") != std::string::npos);
    QCOMPARE(command({"traverse", "first-steps", "--view", "96", "--collision", "97"}).code, 2);
    QCOMPARE(command({"traverse", "three-fields", "--view", "96", "--objects", "9"}).code, 2);
  }

  void traverseTakesARouteFromAFile() {
    const std::string route = file("way.json");
    {
      QFile f(QString::fromStdString(route));
      QVERIFY(f.open(QIODevice::WriteOnly));
      f.write(R"({"points": [[0, 0], [100, 0]], "seconds": [0, 0.25]})");
    }
    const auto json = nlohmann::json::parse(
        command({"traverse", "first-steps", "--route", route, "--view", "40", "--json"}).out);
    QCOMPARE(json[0]["frames"].get<int>(), 15);
    QCOMPARE(json[0]["settings"]["route"].get<std::string>(), "points");
  }

  void traverseRefusesInWords() {
    for (const std::vector<std::string>& bad :
        {std::vector<std::string>{"--view", "100000"}, {"--view", "-1"}, {"--threads", "512"},
            {"--threads", "many"}, {"--chunk", "0"}, {"--chunk", "5000"}, {"--speed", "0"},
            {"--seconds", "0"}, {"--route", "spiral"}, {"--start", "home"}, {"--levels", "10"},
            {"--against", "colour=3"}, {"--against", "chunk=0"}, {"--against", "threads"},
            {"--memory", "-1"}, {"--cache", "1e30"}, {"--take", "0"}, {"--view", "65536"},
            {"--ahead", "-4"}, {"--margin", "1000000"}, {"--frames", "0"}}) {
      std::vector<std::string> args{"traverse", "first-steps", "--seconds", "0.1"};
      if (bad[0] == "--seconds") args.resize(2);
      args.insert(args.end(), bad.begin(), bad.end());
      const Outcome said = command(args);
      QVERIFY2(said.code == 2, bad[1].c_str());
      QCOMPARE(std::count(said.err.begin(), said.err.end(), '\n'), 1);
    }
  }

  void aLimitBelowAViewIsSaidByTraverse() {
    const Outcome said = command({"traverse", "saltfen-reach", "--seconds", "0.3", "--fast",
        "--memory", "1", "--view", "500"});
    QCOMPARE(said.code, 0);
    QVERIFY2(said.out.find("The limit of 1 MiB cannot hold the view") != std::string::npos,
        said.out.c_str());
  }

  void checksDecideTheExitCode() {
    QCOMPARE(command({"check", "saltfen-reach"}).code, 0);
    const Outcome found =
        command({"check", "first-steps", "--set", "/heights/layers/id:bumps/width=1", "--set",
            R"(/heights/layers/id:bumps/sampling={"x":0,"z":0})"});
    QCOMPARE(found.code, 1);
    QVERIFY(found.out.find("is flat: width 1 samples only lattice points") != std::string::npos);
  }

  /// The mend of a finding is written as a recipe in which it is no longer found.
  void mendsAreApplied() {
    const std::string flat = R"(/heights/layers/id:bumps/sampling={"x":0,"z":0})";
    const std::vector<std::string> faulty = {
        "check", "first-steps", "--set", "/heights/layers/id:bumps/width=1", "--set", flat};
    const auto with = [&](std::initializer_list<std::string> more) {
      std::vector<std::string> args = faulty;
      args.insert(args.end(), more.begin(), more.end());
      return command(args);
    };
    const std::string out = file("mended.acre");
    const Outcome mended = with({"--apply", "flat", "--out", out});
    QCOMPARE(mended.code, 0);
    QVERIFY2(mended.out.find("set the sampling offset") != std::string::npos, mended.out.c_str());
    QVERIFY(command({"check", out}).out.find("[flat]") == std::string::npos);
    const Outcome none = with({"--apply", "hollow", "--out", file("none.acre")});
    QCOMPARE(none.code, 2);
    QVERIFY2(
        none.err.find("--apply") != std::string::npos && none.err.find("flat") != std::string::npos,
        none.err.c_str());
    QVERIFY(!QFile::exists(QString::fromStdString(file("none.acre"))));
    QCOMPARE(with({"--apply", "flat"}).code, 2);                                 // Where to?
    QCOMPARE(command({"check", out, "--apply", "flat", "--out", out}).code, 2);  // Over itself.
    QVERIFY(with({"--json"}).out.find("\"what\": \"Lattice noise is 0") != std::string::npos);
  }

  void everyFormatIsWritten() {
    for (const char* name : {"a.png", "a.tif", "a.pgm", "a.raw", "a.csv", "a.svg"}) {
      const Outcome o = command({"map", "saltfen-reach", "--size", "64x48", "--contours", "5",
          "--set", "/rivers/on=false", "--out", file(name)});
      QVERIFY2(o.code == 0, o.err.c_str());
      QVERIFY(QFile(QString::fromStdString(file(name))).size() > 500);
    }
    QVERIFY(QFile::exists(QString::fromStdString(file("a.raw.json"))));
    for (const char* show :
        {"slope", "grey", "field:uplands", "layer:ridges", "layer:uplands/broad"})
      QCOMPARE(command({"map", "saltfen-reach", "--size", "20x20", "--show", show, "--set",
                           "/rivers/on=false", "--out", file("b.png")})
                   .code,
          0);
    QCOMPARE(
        command({"map", "saltfen-reach", "--show", "layer:none", "--out", file("b.png")}).code, 2);
    QCOMPARE(command({"map", "saltfen-reach", "--show", "composite", "--format", "svg", "--out",
                         file("b.svg")})
                 .code,
        2);  // Lines need an interval.
  }

  void infoCountsCellsAndChunks() {
    const Outcome o = command({"info", "saltfen-reach", "--json", "--set",
        R"(/frame/bounds={"x":{"min":0,"extent":100},"z":{"min":0,"extent":100}})", "--set",
        "/frame/chunk=16"});
    QCOMPARE(o.code, 0);
    const auto json = nlohmann::json::parse(o.out);
    QCOMPARE(json["cells"].get<std::string>(), "10000");
    QCOMPARE(json["chunks"].get<std::string>(), "49");
    QCOMPARE(json["worlds"].get<std::string>(), "18446744073709551616");
    QVERIFY(command({"info", "saltfen-reach"}).out.find("endless") != std::string::npos);
  }

  void infoCountsTheLargestWorlds() {
    const Outcome o = command({"info", "saltfen-reach", "--json", "--set",
        R"(/frame/bounds={"x":{"min":-1152921504606846976,"extent":2305843009213693953},"z":{"min":0,"extent":1}})"});
    QCOMPARE(nlohmann::json::parse(o.out)["cells"].get<std::string>(), "2305843009213693953");
  }

  void infoConvertsBothWays() {
    const auto at =
        nlohmann::json::parse(command({"info", "saltfen-reach", "--at", "-5,3", "--json"}).out);
    QCOMPARE(at["chunk"], nlohmann::json({-1, 0}));
    QCOMPARE(at["local"], nlohmann::json({27, 3}));
    QCOMPARE(at["index"], nlohmann::json(123));
    const auto back = nlohmann::json::parse(
        command({"info", "saltfen-reach", "--chunk", "-1,0", "--index", "123", "--json"}).out);
    QCOMPARE(back, at);
    const auto local = nlohmann::json::parse(
        command({"info", "saltfen-reach", "--chunk", "-1,0", "--local", "27,3", "--json"}).out);
    QCOMPARE(local, at);
  }

  void chunkPrintsHashesThatRepeat() {
    const Outcome a = command({"chunk", "saltfen-reach", "--at", "3,-4", "--hash"});
    const Outcome b = command(
        {"chunk", "saltfen-reach", "--at", "3,-4", "--hash", "--simd", "plain", "--threads", "4"});
    QCOMPARE(a.code, 0);
    QCOMPARE(a.out.size(), size_t{33});
    QCOMPARE(a.out, b.out);
    QVERIFY(command({"chunk", "saltfen-reach", "--at", "3,-4", "--hash", "--seed", "100"}).out !=
            a.out);
    QCOMPARE(command({"chunk", "saltfen-reach", "--at", "3,-4", "--out", file("c.json")}).code, 0);
    QVERIFY(QFile::exists(dir_.filePath("c.json")));
  }

  void mapWritesWhatItSays() {
    const Outcome o = command({"map", "saltfen-reach", "--centre", "-40,70", "--size", "64x48",
        "--step", "3", "--out", file("m.png"), "--json"});
    QCOMPARE(o.code, 0);
    const auto json = nlohmann::json::parse(o.out);
    QCOMPARE(json["first"], nlohmann::json({-40 - 32 * 3, 70 - 24 * 3}));
    QCOMPARE(json["cells"].get<int>(), 64 * 48);
    QVERIFY(json.contains("generateSeconds") && json.contains("writeSeconds"));
    QCOMPARE(command({"map", "saltfen-reach", "--size", "9x9", "--out", file("m.csv")}).code, 0);
    QCOMPARE(command({"map", "saltfen-reach", "--size", "9x9", "--format", "png16", "--out",
                         file("h.png")})
                 .code,
        0);
    QCOMPARE(command({"map", "saltfen-reach", "--centre", "2000000000,-2000000000", "--size", "9x9",
                         "--out", file("f.png")})
                 .code,
        0);
  }

  void blocksAreShownFromAllSides() {
    const Outcome slice = command(
        {"map", "swallet-edge", "--y", "-12", "--size", "24x16", "--out", file("y.png"), "--json"});
    QCOMPARE(slice.code, 0);
    QCOMPARE(nlohmann::json::parse(slice.out)["show"], "slice:-12");
    const Outcome high =
        command({"map", "swallet-edge", "--y", "5000", "--size", "8x8", "--out", file("y.png")});
    QCOMPARE(high.code, 2);
    QVERIFY2(high.err.find("vertical range") != std::string::npos &&
                 high.err.find("y from") != std::string::npos,
        high.err.c_str());
    const Outcome smooth = command({"view", "swallet-edge", "--smooth", "--size", "96x64",
        "--distance", "64", "--out", file("v.png"), "--json"});
    QCOMPARE(smooth.code, 0);
    QVERIFY(nlohmann::json::parse(smooth.out)["triangles"].get<int>() > 1000);
    QCOMPARE(command({"chunk", "swallet-edge", "--at", "0,1,0", "--smooth", "--out", file("s.glb")})
                 .code,
        0);
    QCOMPARE(
        command({"chunk", "saltfen-reach", "--exaggeration", "3", "--out", file("t.obj")}).code, 0);
    QCOMPARE(
        command({"chunk", "saltfen-reach", "--exaggeration", "0", "--out", file("t.obj")}).code, 2);
    const Outcome walk = command({"census", "lantern-shelf"});
    QVERIFY2(walk.out.find("columns at them") != std::string::npos, walk.out.c_str());
    const Outcome fill = command(
        {"chunk", "saltfen-reach", "--set", "/heights/fillDown=true", "--out", file("f.csv")});
    QCOMPARE(fill.code, 0);
    QFile table(dir_.filePath("f.csv"));
    QVERIFY(table.open(QIODevice::ReadOnly));
    QVERIFY(table.readLine().startsWith(
        "x,z,height,material,fill,water,waterKind,objects,tile:deep,tile:shallows,"));
    const Outcome plumb =
        command({"plumb", "saltfen-reach", "--at", "7,9", "--set", "/heights/fillDown=true"});
    QVERIFY2(plumb.out.find("filled down") != std::string::npos, plumb.out.c_str());
  }

  /// Three ways to the same cell: a table from above, a chunk, and the place itself.
  void everyVerbTellsTheSameCells() {
    QCOMPARE(command({"map", "saltfen-reach", "--centre", "-16,48", "--size", "32x32", "--show",
                         "height", "--out", file("same.csv")})
                 .code,
        0);
    QFile table(dir_.filePath("same.csv"));
    QVERIFY(table.open(QIODevice::ReadOnly));
    const QList<QByteArray> rows = table.readAll().trimmed().split('\n');
    const auto chunk =
        nlohmann::json::parse(command({"chunk", "saltfen-reach", "--at", "-1,1", "--json"}).out);
    QCOMPARE(chunk["first"], nlohmann::json({-32, 32}));
    for (int z = 0; z < 32; ++z)
      for (int x = 0; x < 32; ++x)
        QCOMPARE(rows[z].split(',')[x].toFloat(),
            chunk["heights"][static_cast<size_t>(z * 32 + x)].get<float>());
    const auto place =
        nlohmann::json::parse(command({"info", "saltfen-reach", "--at", "-20,40", "--json"}).out);
    QCOMPARE(place["height"].get<float>(),
        chunk["heights"][static_cast<size_t>(8 * 32 + 12)].get<float>());
  }

  void chunkHashesAreThoseOfRecord() {
    // Made by: acre chunk DEMO --at CX,CZ --hash
    QFile record(ACRE_SOURCE_DIR "/tests/golden/chunks.txt");
    QVERIFY(record.open(QIODevice::ReadOnly));
    int lines = 0;
    std::set<QByteArray> demos;
    for (const QByteArray& line : record.readAll().trimmed().split('\n')) {
      const QList<QByteArray> parts = line.split(' ');
      // In plain C++ rivers and objects take long to find: so one chunk of each demo, or all.
      const bool first = demos.insert(parts[0]).second;
      for (const char* simd : {"plain", ""}) {
        if (*simd && !first && suite::sized(1, 0)) continue;
        QCOMPARE(command({"chunk", parts[0].toStdString(), "--at", parts[1].toStdString(), "--hash",
                             "--simd", simd})
                     .out,
            parts[2].toStdString() + "\n");
      }
      ++lines;
    }
    QVERIFY(lines >= 6 && demos.size() >= 2);
  }

  void overridesReachTheCells() {
    const auto hash = [&](std::vector<std::string> more) {
      std::vector<std::string> args = {"chunk", "saltfen-reach", "--at", "0,0", "--hash"};
      args.insert(args.end(), more.begin(), more.end());
      return command(args).out;
    };
    const std::string plain = hash({});
    QCOMPARE(hash({"--set", "/heights/layers/id:hills/amplitude=6"}),
        plain);  // Its value already.
    QCOMPARE(hash({"--set", "/name=Else"}), plain);
    QVERIFY(hash({"--set", "/heights/layers/id:hills/amplitude=6.0001"}) != plain);
    QVERIFY(hash({"--set", "/heights/layers/0/on=false"}) != plain);
    QVERIFY(hash({"--set", "/biomes/list/id:reedbed/relief/raise=0.75", "--set",
                "/biomes/list/id:heath/relief/raise=0.75"}) != plain);
    QVERIFY(hash({"--set", "/biomes/on=false"}) != plain);
    QCOMPARE(hash({"--seed", "heather-41"}), plain);
    QCOMPARE(hash({"--seed", "5078663641199716627"}), plain);  // The number of that text.
  }

  void heightsOutsideTheBoundsAreNotInvented() {
    const std::string bounds =
        R"(/frame/bounds={"x":{"min":0,"extent":10},"z":{"min":0,"extent":10}})";
    QCOMPARE(command({"map", "saltfen-reach", "--centre", "0,0", "--size", "6x6", "--set", bounds,
                         "--out", file("b.csv")})
                 .code,
        0);
    QFile table(dir_.filePath("b.csv"));
    QVERIFY(table.open(QIODevice::ReadOnly));
    const QList<QByteArray> rows = table.readAll().split('\n');
    QCOMPARE(rows[0], QByteArray(",,,,,"));
    QVERIFY(rows[3].startsWith(",,,") && rows[3].split(',')[3].toFloat() != 0);
    const Outcome o = command({"map", "saltfen-reach", "--centre", "0,0", "--size", "6x6",
        "--format", "png16", "--set", bounds, "--out", file("b.png")});
    QCOMPARE(o.code, 2);
    QVERIFY(o.err.find("outside the world") != std::string::npos);
    QCOMPARE(command({"chunk", "saltfen-reach", "--at", "5,5", "--set", bounds}).code, 2);
  }

  void badInputIsOneLineAndExitTwo_data() {
    QTest::addColumn<QStringList>("args");
    QTest::addColumn<QString>("says");
    const auto row = [](const char* name, QStringList args, const char* says) {
      QTest::newRow(name) << args << says;
    };
    const QString out = dir_.filePath("x.png");
    row("no verb", {}, "demos, find, info, map");
    row("unknown verb", {"paint"}, "paint");
    row("no recipe", {"info"}, "recipe");
    row("missing file", {"info", "no-such-world"}, "no such file");
    row("directory as recipe", {"info", dir_.path()}, "directory");
    row("empty seed", {"info", "saltfen-reach", "--seed", ""}, "--seed");
    row("seed with a blank", {"info", "saltfen-reach", "--seed", "a "}, "white space");
    row("no threads", {"map", "first-steps", "--threads", "0", "--out", out}, "1 to 256");
    row("number too large", {"info", "first-steps", "--set", "/heights/layers/2/width=1e999"},
        "the number 1e999 is too large");
    row("another name of a place", {"info", "first-steps", "--set", "/heights/layers/00/width=5"},
        "an index below 3");
    row("three numbers", {"plumb", "swallet-edge", "--at", "5,7,-3"},
        "X,Z, and the level of a block after --y");
    row("three numbers to info", {"info", "swallet-edge", "--at", "5,7,-3"}, "after --y");
    row("three numbers to view", {"view", "swallet-edge", "--from", "5,7,-3", "--out", out},
        "after --y");
    row("three numbers against", {"plumb", "swallet-edge", "--at", "5,7", "--against", "1,2,3"},
        "after --against-y");
    row("beside a side world", {"info", "lantern-shelf", "--at", "5,1", "--y", "8"}, "X,0");
    row("level as z", {"info", "lantern-shelf", "--at", "5,8"}, "after --y");
    row("level as z in plumb", {"plumb", "lantern-shelf", "--at", "5,8"}, "after --y");
    row("level of tiles", {"info", "first-steps", "--at", "5,1", "--y", "8"}, "--at X,Z alone");
    row("level outside", {"info", "swallet-edge", "--at", "5,1", "--y", "128"}, "-96 to 127");
    row("chunk below", {"info", "swallet-edge", "--chunk", "0,-9,0", "--index", "1"}, "CY from -3");
    row("local of blocks", {"info", "swallet-edge", "--chunk", "0,0,0", "--local", "1,2"}, "X,Y,Z");
    row("local outside", {"info", "swallet-edge", "--chunk", "0,0,0", "--local", "1,32,3"},
        "y 0 to 31");
    row("far centre", {"map", "first-steps", "--centre", "99999999999999999999,0", "--out", out},
        "cells from -2^60 to 2^60");
    for (const char* cell : {"-1152921504606846976,0", "0,1152921504606846975"})
      for (const char* verb : {"info", "plumb"})
        QTest::addRow("%s at %s", verb, cell)
            << QStringList{verb, "first-steps", "--at", cell} << "cells within 2^60 of the origin";
    row("range of 8 bits", {"map", "first-steps", "--range", "0,1", "--out", out}, "16 bits");
    row("comment in a picture", {"map", "first-steps", "--comment", "--out", out}, "csv");
    row("near on a level", {"find", "underkiln", "--near", "3,3"}, "--near");
    row("levels of a level", {"find", "underkiln", "--spaces", "0,0,9x9", "--levels", "0,1"},
        "--levels");
    row("levels without a box", {"find", "swallet-edge", "--levels", "0,1"}, "--spaces");
    row("no out, of which verb", {"map", "first-steps"}, "(see acre map --help)");
    row("layer of another field", {"map", "saltfen-reach", "--show", "layer:weather", "--out", out},
        "accepted: layer:temperature/weather");
    row("area of a proof", {"prove", "first-steps", "--area", "0,0,0x5"}, "--area: ");
    row("floods without end",
        {"info", "underkiln", "--set", "/level/processes/id:outline/size=100000", "--set",
            "/level/processes/id:outline/floods=10000"},
        "at most 100000000 cells in all floods");
    row("bad set", {"info", "saltfen-reach", "--set", "/frame/sea"}, "POINTER=VALUE");
    row("set out of range", {"info", "saltfen-reach", "--set", "/frame/chunk=0"}, "1 to 1024");
    row("set unknown", {"info", "saltfen-reach", "--set", "/frame/sky=0"}, "/frame/sky");
    row("threads", {"info", "saltfen-reach", "--threads", "1000000"}, "1 to 256");
    row("simd", {"info", "saltfen-reach", "--simd", "abacus"}, "plain");
    row("place", {"info", "saltfen-reach", "--at", "1;2"}, "X,Z");
    row("place too far", {"info", "saltfen-reach", "--at", "9223372036854775807,0"}, "2^60");
    row("index", {"info", "saltfen-reach", "--chunk", "0,0", "--index", "1024"}, "0 to 1023");
    row("local", {"info", "saltfen-reach", "--chunk", "0,0", "--local", "32,0"}, "0 to 31");
    row("absurd size", {"map", "saltfen-reach", "--size", "1000000000x1000000000", "--out", out},
        "1 to 65536");
    row("size zero", {"map", "saltfen-reach", "--size", "0x5", "--out", out}, "1 to 65536");
    row("step zero", {"map", "saltfen-reach", "--step", "0", "--out", out}, "2^40");
    row("step huge",
        {"map", "saltfen-reach", "--step", "1000000000000", "--size", "60000x60000", "--centre",
            "1152921504606846976,0", "--out", out},
        "2^60");
    row("no such picture", {"map", "saltfen-reach", "--show", "mood", "--out", out}, "composite");
    row("no such format", {"map", "saltfen-reach", "--out", dir_.filePath("x.bmp")}, ".png");
    row("no out", {"map", "saltfen-reach"}, "--out");
    row("unwritable", {"map", "saltfen-reach", "--size", "9x9", "--out", "/nowhere/x.png"},
        "/nowhere/x.png");
    row("directory as file",
        {"map", "saltfen-reach", "--size", "9x9", "--format", "png", "--out", dir_.path()},
        "directory");
    row("full disk", {"map", "saltfen-reach", "--format", "png", "--out", "/dev/full"},
        "/dev/full");
    row("chunk too far", {"chunk", "saltfen-reach", "--at", "9000000000000000000,0"}, "beyond");
    row("sampling of a terrace",
        {"info", "first-steps", "--set",
            R"(/heights/layers/2={"id":"t","kind":"terrace","height":2,"flat":0.5,"sampling":{"x":0,"z":1}})"},
        "/heights/layers/2/sampling");
    row("missing key says what it may be",
        {"info", "first-steps", "--set", R"(/heights/layers/0={"id":"t","kind":"gradient"})"},
        "\"width\" is missing; accepted: a number");
    for (const char* near : {"9223372036854775807,9223372036854775807",
             "-9223372036854775808,-9223372036854775808", "1152921504606846977,0"})
      row(near, {"find", "swallet-edge", "--near", near}, "cells from -2^60 to 2^60");
    row("route without end", {"traverse", "first-steps", "--route", "/dev/zero"}, "a regular file");
    row("detail below nothing", {"traverse", "first-steps", "--detail", "-1"}, "detail distance");
    row("contours too fine",
        {"map", "first-steps", "--size", "64x64", "--contours", "1e-6", "--out",
            dir_.filePath("x.svg")},
        "10000 levels at most");
    for (const auto& [verb, option] :
        {std::pair("traverse", "--take"), std::pair("info", "--threads")})
      row(option, {verb, "first-steps", option, "-1"}, option);
    for (const auto& [verb, option] : {std::pair("map", "--light"), std::pair("map", "--contours"),
             std::pair("view", "--distance"), std::pair("view", "--field"),
             std::pair("section", "--exaggeration"), std::pair("chunk", "--exaggeration"),
             std::pair("traverse", "--speed")})
      for (const char* value : {"nan", "inf", "-infinity"})
        QTest::addRow("%s %s %s", verb, option, value)
            << QStringList{verb, "swallet-edge", option, value, "--out", out} << option;
    for (const char* verb : {"map", "view", "section", "chunk", "traverse"})
      QTest::addRow("%s without a name", verb)
          << QStringList{verb, "first-steps", "--out", ""} << "the name of a file";
    row("chunk format", {"chunk", "saltfen-reach", "--out", dir_.filePath("c.txt")}, ".json");
  }
  void badInputIsOneLineAndExitTwo() {
    QFETCH(QStringList, args);
    QFETCH(QString, says);
    std::vector<std::string> list;
    for (const QString& a : args) list.push_back(a.toStdString());
    const Outcome o = command(list);
    QCOMPARE(o.code, 2);
    QVERIFY2(QString::fromStdString(o.err).contains(says), o.err.c_str());
    QCOMPARE(std::count(o.err.begin(), o.err.end(), '\n'), 1);
    QVERIFY(o.out.empty());
    QVERIFY(!QFile::exists(dir_.filePath("x.png")));
  }

  /// No result replaces what it is made from, nor another result of the same run.
  void resultsReplaceNothingThatIsRead() {
    const auto textOf = [](const std::string& name) {
      QFile in(QString::fromStdString(name));
      return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray();
    };
    const auto put = [&](const char* name, const QByteArray& text) {
      QFile out(dir_.filePath(name));
      QVERIFY(out.open(QIODevice::WriteOnly));
      out.write(text);
    };
    QFile demo(QStringLiteral(ACRE_SOURCE_DIR "/demo/first-steps.acre"));
    QVERIFY(demo.open(QIODevice::ReadOnly));
    const QByteArray recipe = demo.readAll();
    put("own.acre", recipe);
    put("own.mtl", recipe);
    put("own.raw.json", recipe);
    put("route.json", R"({"points": [[0, 0], [200, 0]]})");
    QFile::link(dir_.filePath("own.acre"), dir_.filePath("link.png"));
    const std::string own = file("own.acre");
    for (const std::vector<std::string>& args :
        {
            std::vector<std::string>{"map", own, "--format", "csv", "--out", own},
            {"map", own, "--out", file("link.png")},
            {"section", own, "--out", file("link.png")},
            {"view", own, "--out", file("link.png")},
            {"chunk", file("own.mtl"), "--out", file("own.obj")},
            {"map", file("own.raw.json"), "--out", file("own.raw"), "--size", "9x9"},
            {"traverse", own, "--fast", "--csv", own},
            {"traverse", own, "--fast", "--csv", file("t"), "--out", file("t")},
            {"traverse", own, "--fast", "--route", file("route.json"), "--out", file("route.json")},
        }) {
      const Outcome o = command(args);
      QCOMPARE(o.code, 2);
      QVERIFY2(o.err.find("another file") != std::string::npos, o.err.c_str());
    }
    for (const char* name : {"own.acre", "own.mtl", "own.raw.json"})
      QCOMPARE(textOf(file(name)), recipe);
    QVERIFY(!QFile::exists(dir_.filePath("own.obj")) && !QFile::exists(dir_.filePath("own.raw")));
    // Nor a picture that the recipe names.
    const std::string grey = file("grey.png");
    QCOMPARE(command({"map", own, "--format", "png16", "--size", "16x16", "--out", grey}).code, 0);
    const Outcome o = command({"map", own, "--set",
        R"(/heights/layers/1={"id":"p","kind":"picture","file":"grey.png","x":0,"z":0,"scale":2,"amplitude":3})",
        "--out", grey});
    QCOMPARE(o.code, 2);
    QVERIFY2(o.err.find("which is read") != std::string::npos, o.err.c_str());
  }

  /// A block's place in the world and its place in a chunk, in cubes, columns and side worlds; the
  /// running index is that of the chunk's own list.
  void blocksConvertBothWays() {
    const auto json = [](const std::vector<std::string>& args) {
      const Outcome o = command(args);
      if (o.code != 0) qFatal("%s", o.err.c_str());
      return nlohmann::json::parse(o.out);
    };
    const auto joined = [](const nlohmann::json& list) {
      std::string out;
      for (const auto& n : list) out += (out.empty() ? "" : ",") + n.dump();
      return out;
    };
    for (const std::vector<std::string>& world : {std::vector<std::string>{"swallet-edge"},
             {"swallet-edge", "--set", "/frame/shape=columns"}, {"lantern-shelf"}})
      for (const auto& [x, y, z] :
          {std::array{5, -3, 7}, std::array{-1, 20, -33}, std::array{64, -40, 31}}) {
        std::vector<std::string> ask = {"info", "", "--json", "--at",
            std::to_string(x) + "," + std::to_string(world[0] == "lantern-shelf" ? 0 : z), "--y",
            std::to_string(y)};
        ask[1] = world[0];
        ask.insert(ask.end(), world.begin() + 1, world.end());
        const auto there = json(ask);
        for (const auto& [option, value] : {std::pair("--local", joined(there["local"])),
                 std::pair("--index", there["index"].dump())}) {
          std::vector<std::string> back = {
              "info", world[0], "--json", "--chunk", joined(there["chunk"]), option, value};
          back.insert(back.end(), world.begin() + 1, world.end());
          QCOMPARE(json(back), there);
        }
        std::vector<std::string> chunk = {
            "chunk", world[0], "--at", joined(there["chunk"]), "--out", file("blocks.csv")};
        chunk.insert(chunk.end(), world.begin() + 1, world.end());
        QCOMPARE(command(chunk).code, 0);
        QFile csv(dir_.filePath("blocks.csv"));
        QVERIFY(csv.open(QIODevice::ReadOnly));
        const auto line = csv.readAll().split('\n')[there["index"].get<int>() + 1];
        // What stands there may follow.
        const std::string told =
            joined(there["block"]) + "," + there["material"].get<std::string>();
        QCOMPARE(line.toStdString().substr(0, told.size()), told);
      }
  }

  /// What is told of a block in words is told in JSON as well, and nothing that says nothing.
  void cardsSayTheSame() {
    const auto deep = nlohmann::json::parse(
        command({"plumb", "swallet-edge", "--at", "10,10", "--y", "-90", "--json"}).out);
    QVERIFY(deep["block"]["deeper"].get<bool>());
    for (const auto& layer : deep["heights"]["layers"])
      QCOMPARE(layer.contains("amount"), layer["does"] == "mix" ||
                                             layer["does"] == "smooth-minimum" ||
                                             layer["does"] == "smooth-maximum");
    const Outcome words = command({"plumb", "swallet-edge", "--at", "10,10", "--y", "-90"});
    QVERIFY2(words.out.find(" or more") != std::string::npos, words.out.c_str());
    const std::vector<std::string> hollow = {"plumb", "swallet-edge", "--at", "10,10", "--y", "-20",
        "--set", "/objects={}", "--set",
        R"(/caves={"voids":[{"id":"all","noise":{"kind":"value","width":40},"low":-2,"high":2}]})"};
    std::vector<std::string> asJson = hollow;
    asJson.push_back("--json");
    const auto block = nlohmann::json::parse(command(asJson).out)["block"];
    QCOMPARE(block["held"]["part"], "void");
    const std::string text = command(hollow).out;
    QVERIFY2(text.find("noise void") != std::string::npos, text.c_str());
  }

  /// A chunk is shown of every world, wherever it lies.
  void aChunkIsFoundWhereverTheWorldLies() {
    const Outcome far = command({"chunk", "first-steps", "--set",
        R"(/frame/bounds={"x":{"min":1000,"extent":50},"z":{"min":-900,"extent":9}})"});
    QVERIFY2(far.out.starts_with("chunk 31,-29 "), far.out.c_str());
    const Outcome high = command({"chunk", "swallet-edge", "--set", "/frame/bounds/y/min=200"});
    QVERIFY2(high.out.starts_with("chunk 0,6,0 "), high.out.c_str());
  }

  void tablesSayWhereTheyBegin() {
    const Outcome o = command({"map", "first-steps", "--out", file("c.csv"), "--size", "5x3",
        "--centre", "100,-40", "--step", "4", "--comment"});
    QVERIFY2(o.out.find("from 92,-44 (around 100,-40)") != std::string::npos, o.out.c_str());
    QFile in(dir_.filePath("c.csv"));
    QVERIFY(in.open(QIODevice::ReadOnly));
    const QByteArray text = in.readAll();
    QVERIFY(text.contains("# First cell: 92,-44\n") && text.contains("# Cells per pixel: 4\n"));
    QCOMPARE(text.count("# ") + 3, text.count('\n'));
  }

  /// Limits of the system are met with a line and no litter.
  void limitsOfTheSystemAreSaid() {
    const auto shell = [&](const QString& script) {
      QProcess process;
      process.setWorkingDirectory(dir_.path());
      process.start("bash", {"-c", script, "bash", ACRE_COMMAND});
      if (!process.waitForFinished()) qFatal("no end of %s", qPrintable(script));
      return std::pair(process.exitCode(), process.readAllStandardError());
    };
    const auto [small, said] = shell("ulimit -s 64; exec \"$1\" info first-steps");
    QCOMPARE(small, 2);
    QVERIFY2(said.contains("the stack is limited to 64 KiB"), said);
    const QStringList before = QDir(dir_.path()).entryList(QDir::Files);
    const auto [cut, why] = shell("ulimit -f 40; exec \"$1\" map saltfen-reach --out limit.png");
    QCOMPARE(cut, 2);
    QVERIFY2(why.contains("limit.png: cannot write"), why);
    for (const char* signal : {"TERM", "HUP", "KILL"}) {
      shell(
          QString("\"$1\" map saltfen-reach --size 20000x20000 --out big.png & sleep 0.3; kill "
                  "-%1 $!; wait")
              .arg(signal));
      QCOMPARE(QDir(dir_.path()).entryList(QDir::Files), before);
    }
  }

  /// Bytes that are no text are refused before anything is asked, and never shown as they are.
  void illFormedTextIsRefused() {
    for (const char* bytes : {"\xff", "a\xc3", "\xc0\x80", "\xed\xa0\x80", "\xf4\x90\x80\x80"})
      for (const std::vector<std::string>& args :
          {std::vector<std::string>{"info", "first-steps", "--json", "--seed", bytes},
              {"map", "first-steps", "--json", "--set", std::string("/name=") + bytes, "--out",
                  file("x.png")},
              {"map", "first-steps", "--json", "--out", file("x") + bytes + ".png"},
              {std::string("paint") + bytes}}) {
        const Outcome o = command(args);
        QCOMPARE(o.code, 2);
        QVERIFY2(o.err.find("UTF-8") != std::string::npos, o.err.c_str());
        QVERIFY(o.err.find(bytes) == std::string::npos);
        QCOMPARE(std::count(o.err.begin(), o.err.end(), '\n'), 1);
      }
    const Outcome longOne =
        command({"info", "first-steps", "--set", "/" + std::string(10'000, 'x') + "=1"});
    QCOMPARE(longOne.code, 2);
    QVERIFY(longOne.err.size() < 2500);
  }

  /// What stands in a file behind a byte 0 is not left out in silence.
  void aByteZeroEndsNoFile() {
    QFile recipe(dir_.filePath("zero.acre"));
    QVERIFY(recipe.open(QIODevice::WriteOnly));
    recipe.write(QByteArray("{\n\0 and more", 13));
    recipe.close();
    const Outcome o = command({"info", file("zero.acre")});
    QCOMPARE(o.code, 2);
    QVERIFY2(o.err.find("line 2, column 1") != std::string::npos, o.err.c_str());
  }

  void runsThatFailOrTakeNoTimeSaySo() {
    QFile route(dir_.filePath("one.json"));
    QVERIFY(route.open(QIODevice::WriteOnly));
    route.write(R"({"points": [[5, 5]]})");
    route.close();
    const Outcome still =
        command({"traverse", "first-steps", "--fast", "--route", file("one.json")});
    QVERIFY2(still.out.find("no frame was made") != std::string::npos, still.out.c_str());
    const Outcome beyond = command({"traverse", "first-steps", "--fast", "--seconds", "1",
        "--start", "1152921504606846970,0"});
    QCOMPARE(beyond.code, 1);
    QVERIFY(beyond.out.find("chunks failed") != std::string::npos);
    QVERIFY(beyond.out.find("every chunk was there") == std::string::npos);
  }

  /// Names and seeds with line ends put no records into files.
  void namesStayOneLineInHeaders() {
    const std::vector<std::string> base = {
        "--set", R"(/name="a\nv 1 2 3\u0001")", "--seed", "s\nend_header", "--at", "0,0,0"};
    for (const char* name : {"x.obj", "x.ply", "x.nrrd"}) {
      std::vector<std::string> args = {"chunk", "swallet-edge", "--out", file(name)};
      args.insert(args.end(), base.begin(), base.end());
      const Outcome o = command(args);
      if (o.code != 0) continue;  // Refused is right as well.
      QFile out(dir_.filePath(name));
      QVERIFY(out.open(QIODevice::ReadOnly));
      QByteArray text = out.read(4000);
      if (text.startsWith("NRRD")) text = text.left(text.indexOf("\n\n") + 1);
      QVERIFY2(!text.contains("\nv 1 2 3\n") && !text.contains("\nend_header\nend_header"),
          text.left(300));
      QVERIFY2(!text.contains('\x01'), text.left(300));
    }
    QVERIFY(QFile::exists(dir_.filePath("x.obj")));
  }

  /// A column that is wholly dug out is counted as what it is.
  void columnsWithoutGroundAreCounted() {
    const std::vector<std::string> hollow = {"swallet-edge", "--set", "/objects={}", "--set",
        R"(/caves={"on":true,"voids":[{"id":"all","on":true,"noise":{"kind":"gradient","fractal":"fbm","width":40,"octaves":2,"lacunarity":2,"gain":0.5},"low":-16,"high":16,"underSea":true}]})",
        "--set", "/frame/sea=-200", "--set",
        R"(/frame/bounds={"x":{"min":0,"extent":48},"z":{"min":0,"extent":48}})"};
    for (const char* verb : {"census", "check"}) {
      std::vector<std::string> args = {verb};
      args.insert(args.end(), hollow.begin(), hollow.end());
      const Outcome o = command(args);
      QVERIFY2(o.code <= 1, o.err.c_str());
      if (verb == std::string("census"))
        QVERIFY2(o.out.find("Open") != std::string::npos, o.out.c_str());
    }
  }

  void everyVerbHasHelp() {
    for (const char* verb : {"chunk", "demos", "info", "map"}) {
      const Outcome o = command({verb, "--help"});
      QCOMPARE(o.code, 0);
      QVERIFY(o.out.find("--json") != std::string::npos);
    }
    QCOMPARE(command({"--help"}).code, 0);
    QVERIFY(!command({"--version"}).out.empty());
  }

  void runsAsAProcess() {
    QProcess process;
    process.start(ACRE_COMMAND, {"chunk", "saltfen-reach", "--at", "3,-4", "--hash"});
    QVERIFY(process.waitForFinished());
    QCOMPARE(process.exitCode(), 0);
    QCOMPARE(process.readAllStandardOutput().toStdString(),
        command({"chunk", "saltfen-reach", "--at", "3,-4", "--hash"}).out);
    process.start(ACRE_COMMAND, {"info", "nothing-there"});
    QVERIFY(process.waitForFinished());
    QCOMPARE(process.exitCode(), 2);
    QCOMPARE(process.readAllStandardError().count('\n'), 1);
    QProcess full;
    full.setStandardOutputFile("/dev/full");
    full.start(ACRE_COMMAND, {"chunk", "saltfen-reach", "--json"});
    QVERIFY(full.waitForFinished());
    QCOMPARE(full.exitCode(), 2);
  }
};

ACRE_SUITE(CommandTest)
#include "command_test.moc"
