#include "output/traverse_text.h"
#include "recipe/stages.h"

#include <fmt/format.h>

#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>
#include <set>

namespace acre {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

double mebibytes(uint64_t bytes) {
  return static_cast<double>(bytes) / (1 << 20);
}

/// The settings of a column, by name.
std::vector<std::pair<std::string, std::string>> settingsOf(const TraverseColumn& c) {
  const TraverseSettings& s = c.settings;
  std::vector<std::pair<std::string, std::string>> out = {
      {"chunk", fmt::format("chunks of {}", c.chunkSize)},
      {"threads", s.threads == 1 ? "1 thread" : fmt::format("{} threads", s.threads)},
      {"view", fmt::format("view {} cells", s.stream.viewDistance)},
      {"ahead", fmt::format("ahead {}", s.stream.ahead)},
      {"lead", fmt::format("lead {}", s.stream.lead)},
      {"margin", fmt::format("margin {}", s.stream.margin)},
      {"levels", s.stream.levels == 1 ? "1 level" : fmt::format("{} levels", s.stream.levels)},
      {"detail", fmt::format("detail {}", s.stream.detail)},
      {"cache", fmt::format("cache {:.4g} MiB", mebibytes(s.stream.cacheBytes))},
      {"memory", fmt::format("memory {:.4g} MiB", mebibytes(s.memoryLimit))},
      {"take", fmt::format("{} taken a frame", s.takePerFrame)},
      {"speed", fmt::format("{:.6g} cells/s", s.speed)},
      {"clock", s.realTime ? "real time" : "as fast as possible"}};
  for (size_t n = 0; n < s.extraNames.size(); ++n)
    out.emplace_back(s.extraNames[n],
        fmt::format("{} within {} cells", s.extraNames[n], s.stream.extras[n].distance));
  if (s.stream.levels == 1) std::erase_if(out, [](const auto& p) { return p.first == "detail"; });
  return out;
}

}  // namespace

std::string figureText(double value) {
  if (std::isnan(value)) return "–";
  if (value == std::floor(value) || std::abs(value) >= 1000) return fmt::format("{:.0f}", value);
  return fmt::format("{:.3g}", value);
}

std::string traverseCsv(const TraverseReport& report) {
  std::string text =
      "seconds,needed,missing,loaded,waiting,released,bytes,resident,consumerMillis\n";
  for (const TraverseFrame& f : report.frames)
    fmt::format_to(std::back_inserter(text), "{:.4f},{},{},{},{},{},{},{},{:.4f}\n", f.seconds,
        f.needed, f.missing, f.loaded, f.waiting, f.released, f.bytes, f.resident,
        f.consumerMillis);
  return text;
}

std::vector<TraverseFigure> traverseFigures(const std::vector<TraverseColumn>& columns) {
  std::vector<TraverseFigure> out;
  const auto add = [&](std::string name, const char* unit, auto&& of) {
    TraverseFigure figure{std::move(name), unit, {}};
    for (const TraverseColumn& c : columns) figure.values.push_back(of(c.report));
    out.push_back(std::move(figure));
  };
  using R = const TraverseReport&;
  const auto perChunk = [](R r, double sum) {
    return r.stream.built ? sum / static_cast<double>(r.stream.built) : kNone;
  };
  const auto number = [](auto v) { return static_cast<double>(v); };
  add("first full view", "ms", [](R r) { return r.fullViewMillis < 0 ? kNone : r.fullViewMillis; });
  add("missing chunk-frames", "", [&](R r) { return r.realTime ? number(r.missing) : kNone; });
  add("frames with any missing", "",
      [&](R r) { return r.realTime ? number(r.missingFrames) : kNone; });
  add("wait, median", "ms", [](R r) { return r.waits.median; });
  add("wait, 95 %", "ms", [](R r) { return r.waits.percent95; });
  add("wait, 99 %", "ms", [](R r) { return r.waits.percent99; });
  add("wait, worst", "ms", [](R r) { return r.waits.worst; });
  // Whatever any of them has nearer than the ground.
  std::set<std::string> extras;
  for (const TraverseColumn& c : columns)
    for (const TraverseExtra& extra : c.report.extras) extras.insert(extra.name);
  for (const std::string& name : extras) {
    const auto of = [name](double TraverseWaits::*member) {
      return [name, member](R r) {
        for (const TraverseExtra& extra : r.extras)
          if (extra.name == name && r.realTime) return extra.waits.*member;
        return kNone;
      };
    };
    add(name + ", 99 %", "ms", of(&TraverseWaits::percent99));
    add(name + ", worst", "ms", of(&TraverseWaits::worst));
  }
  add("chunks needed", "", [&](R r) { return number(r.waits.count); });
  add("chunks built", "", [&](R r) { return number(r.stream.built); });
  add("found in the cache", "", [&](R r) { return number(r.stream.found); });
  add("dropped unfinished", "", [&](R r) { return number(r.stream.dropped); });
  add("released", "", [&](R r) { return number(r.stream.released); });
  add("failed", "", [&](R r) { return number(r.stream.failed); });
  add("chunks a second", "", [](R r) { return r.chunksPerSecond(); });
  add("time a chunk", "ms", [&](R r) { return perChunk(r, r.stream.stages.sum()); });
  for (const StageDef& stage : allStages())
    if (stage.id != StageId::Frame && stage.id != StageId::Climate)  // Asked by the others.
      add(fmt::format("  {}", stage.key), "ms",
          [&](R r) { return perChunk(r, r.stream.stages[stage.id]); });
  add("  packing", "ms", [&](R r) { return perChunk(r, r.stream.stages.packing); });
  add("owner's worst frame", "ms", [](R r) { return r.consumerWorst; });
  add("most bytes", "MiB", [](R r) { return mebibytes(r.peakBytes); });
  add("most memory above the start", "MiB", [](R r) { return mebibytes(r.peakResident); });
  return out;
}

std::vector<std::string> traverseSettingsText(const std::vector<TraverseColumn>& columns) {
  std::set<std::string> same;
  const auto first = settingsOf(columns.front());
  if (columns.size() > 1)
    for (const auto& [key, text] : first) {
      bool all = true;
      for (const TraverseColumn& c : columns) {
        const auto other = settingsOf(c);
        all = all && std::find(other.begin(), other.end(), std::pair(key, text)) != other.end();
      }
      if (all) same.insert(key);
    }
  std::vector<std::string> out;
  for (const TraverseColumn& c : columns) {
    std::string line;
    for (const auto& [key, text] : settingsOf(c))
      if (!same.contains(key)) line += (line.empty() ? "" : ", ") + text;
    out.push_back(line.empty() ? "the same" : line);
  }
  return out;
}

std::string traverseJson(const std::vector<TraverseColumn>& columns, bool frames) {
  using Json = nlohmann::ordered_json;
  const auto figures = traverseFigures(columns);
  Json out = Json::array();
  for (size_t i = 0; i < columns.size(); ++i) {
    const TraverseColumn& c = columns[i];
    const TraverseSettings& s = c.settings;
    const TraverseReport& r = c.report;
    Json one = {{"name", c.name}, {"verdict", verdictOf(r)}, {"finished", r.finished},
        {"settings",
            {{"route", routeName(s.route.kind)}, {"speed", s.speed}, {"seconds", s.seconds},
                {"framesPerSecond", s.framesPerSecond}, {"realTime", s.realTime},
                {"threads", s.threads}, {"chunk", c.chunkSize}, {"view", s.stream.viewDistance},
                {"ahead", s.stream.ahead}, {"lead", s.stream.lead}, {"margin", s.stream.margin},
                {"levels", s.stream.levels}, {"detail", s.stream.detail},
                {"cacheBytes", s.stream.cacheBytes}, {"memoryLimit", s.memoryLimit},
                {"takePerFrame", s.takePerFrame}}},
        {"frames", r.frames.size()}, {"worstWaitAt", r.waits.worstAt}, {"missingAt", r.missingAt}};
    Json list = Json::array();
    for (const TraverseFigure& f : figures) {
      const size_t from = f.name.find_first_not_of(' ');
      Json value = f.values[i];
      if (std::isnan(f.values[i])) value = nullptr;
      list.push_back({{"figure", f.name.substr(from)}, {"unit", f.unit}, {"value", value}});
    }
    one["figures"] = std::move(list);
    Json failures = Json::array();
    for (const Stream::Failure& f : r.failures)
      failures.push_back({{"chunk", {f.pos.cx, f.pos.cz}}, {"error", f.error.text()}});
    one["failures"] = std::move(failures);
    if (frames) {
      Json rows = Json::array();
      for (const TraverseFrame& f : r.frames)
        rows.push_back({f.seconds, f.needed, f.missing, f.loaded, f.waiting, f.released, f.bytes,
            f.resident, f.consumerMillis});
      one["frameColumns"] = {"seconds", "needed", "missing", "loaded", "waiting", "released",
          "bytes", "resident", "consumerMillis"};
      one["frameRows"] = std::move(rows);
    }
    out.push_back(std::move(one));
  }
  return out.dump(2) + "\n";
}

}  // namespace acre
