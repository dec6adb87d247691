// What a proof has found, in words and as JSON.
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "audit/proof.h"

namespace acre {

std::string proofText(const Proof& proof) {
  std::string text;
  for (const ProofStep& step : proof.steps)
    text += fmt::format(
        "{} {:<40} {:>9} cells\n", step.holds ? "holds " : "BROKEN", step.sentence, step.compared);
  for (size_t i = 0; i < proof.areas.size(); ++i) {
    const Rect& a = proof.areas[i];
    text += fmt::format(
        "area {},{},{}x{}  {}\n", a.x, a.z, a.width, a.length, proof.areaHashes[i].hex());
  }
  text += "world  " + proof.world.hex() + "\n";
  for (const ProofStep& step : proof.steps) {
    if (!step.difference) continue;
    const ProofDifference& d = *step.difference;
    const std::string level = d.y ? fmt::format(" y {}", *d.y) : std::string();
    text += fmt::format("\n{}: first difference at {},{}{}\n\n{}: {}\n{}\n{}: {}\n{}",
        step.sentence, d.cell.x, d.cell.z, level, d.one, d.oneSays, d.onePlumb, d.other,
        d.otherSays, d.otherPlumb);
    break;
  }
  return text;
}

std::string proofJson(const Proof& proof) {
  using Json = nlohmann::ordered_json;
  Json steps = Json::array(), areas = Json::array();
  for (const ProofStep& step : proof.steps) {
    Json one = {{"id", step.id}, {"sentence", step.sentence}, {"holds", step.holds},
        {"cells", step.compared}};
    if (const auto& d = step.difference)
      one["difference"] = {{"cell", {d->cell.x, d->cell.z}},
          {"sides", {{{"side", d->one}, {"says", d->oneSays}, {"plumb", d->onePlumb}},
                        {{"side", d->other}, {"says", d->otherSays}, {"plumb", d->otherPlumb}}}}};
    steps.push_back(std::move(one));
  }
  for (size_t i = 0; i < proof.areas.size(); ++i) {
    const Rect& a = proof.areas[i];
    areas.push_back({{"first", {a.x, a.z}}, {"size", {a.width, a.length}},
        {"hash", proof.areaHashes[i].hex()}});
  }
  return Json{{"holds", proof.holds()}, {"fingerprint", proof.world.hex()}, {"areas", areas},
             {"steps", steps}}
             .dump(2) +
         "\n";
}

}  // namespace acre
