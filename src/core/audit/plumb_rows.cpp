// The plumb line in words: its title, its rows, the text of a card, and where two differ.
#include <fmt/format.h>

#include <map>

#include "audit/explain.h"
#include "recipe/stages.h"

namespace acre {

const char* PlumbRow::stageTitle() const {
  return stage ? defOf(*stage).title : "By hand";
}

std::string plumbTitle(const Plumb& plumb) {
  if (plumb.outside) return "Outside the bounds";
  if (plumb.block) return fmt::format("{}, y {}", plumb.materialName, plumb.block->y);
  if (const auto& level = plumb.level) {
    if (!level->place.empty() && !plumb.edited) return level->placeName;
    if (level->open) return plumb.materialName;
    return fmt::format("{}, {} deep", plumb.materialName, level->at.depth);
  }
  const std::string what = !plumb.biome.on               ? plumb.materialName
                           : plumb.biome.biome == "none" ? "No biome"
                                                         : plumb.biome.name;
  return fmt::format("{}, height {}", what, shortNumber(plumb.height));
}

std::vector<PlumbRow> plumbRows(const Plumb& plumb) {
  struct Rows : PlumbSink {
    std::vector<PlumbRow> rows;
    void row(PlumbRow row) override { rows.push_back(std::move(row)); }
  } sink;
  explain(plumb, sink);
  return std::move(sink.rows);
}

std::string plumbText(const Plumb& plumb) {
  std::string out = fmt::format("{} · x {} z {}\n", plumbTitle(plumb), plumb.cell.x, plumb.cell.z);
  out += fmt::format(
      "chunk {},{} · local {},{}\n", plumb.chunk.cx, plumb.chunk.cz, plumb.local.x, plumb.local.z);
  for (const PlumbRow& row : plumbRows(plumb))
    out += fmt::format("{} {:<8} {:<28} {:>14}{}{}\n", row.deciding ? "*" : " ", row.stageTitle(),
        row.label, row.value, row.note.empty() ? "" : "   ", row.note);
  return out;
}

std::vector<PlumbDifference> plumbDifferences(const Plumb& a, const Plumb& b) {
  struct Said {
    std::string label, text;
    bool telling;
  };
  struct Listener : PlumbSink {
    std::vector<Said> all;
    void beside(std::string label, std::string text, bool telling) override {
      all.push_back({std::move(label), std::move(text), telling});
    }
  } first, second;
  explain(a, first);
  explain(b, second);
  // The same label may be said more than once: each is set beside its own.
  std::map<std::string, std::vector<const Said*>> others;
  for (const Said& said : second.all) others[said.label].push_back(&said);
  std::map<std::string, size_t> met;
  std::vector<PlumbDifference> out;
  for (const Said& said : first.all) {
    const auto& list = others[said.label];
    const size_t at = met[said.label]++;
    if (at >= list.size() || said.text == list[at]->text) continue;
    if (said.telling || list[at]->telling) out.push_back({said.label, said.text, list[at]->text});
  }
  return out;
}

}  // namespace acre
