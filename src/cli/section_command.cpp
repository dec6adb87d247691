#include <fmt/format.h>

#include <cmath>

#include "cli/common.h"
#include "output/png.h"
#include "output/section.h"
#include "view/loading.h"

namespace acre::cli {
namespace {

struct SectionOptions {
  RecipeOptions recipe;
  std::string from = "-256,0", to = "256,0";
  std::string range;
  double exaggeration = 1;
  std::string size;
  std::string out;
  bool plain = false;
};

Result<int> section(const SectionOptions& options, Streams& streams) {
  const auto from = parsePair(options.from, "--from");
  if (!from) return from.error();
  const auto to = parsePair(options.to, "--to");
  if (!to) return to.error();
  if (std::filesystem::path(options.out).extension() != ".png")
    return Error{Error::Code::InvalidInput, fmt::format("\"{}\" tells no format", options.out),
        "--out", "a name that ends in .png"};
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  SectionRequest request;
  request.from = *from;
  request.to = *to;
  const AxisBounds vertical = planOf(world).vertical();
  request.low = static_cast<double>(vertical.min);
  request.high = static_cast<double>(vertical.min + vertical.extent);
  if (!options.range.empty()) {
    const auto range = parseRange(options.range, "--range");
    if (!range) return range.error();
    request.low = range->first;
    request.high = range->second;
  }
  if (!options.size.empty()) {
    const auto size = parseSize(options.size, "--size", SectionRequest::kLongestSide);
    if (!size) return size.error();
    request.width = size->first;
    request.height = size->second;
  } else {  // As long as it is, as high as it should look.
    const double length =
        std::hypot(static_cast<double>(to->x - from->x), static_cast<double>(to->z - from->z));
    const double scale = std::clamp(std::floor(1200 / std::max(1.0, length)), 1.0, 16.0);
    request.width = static_cast<int32_t>(std::clamp(length * scale, 1.0, 8192.0));
    request.height = static_cast<int32_t>(std::clamp(
        (request.high - request.low) * options.exaggeration * request.width / std::max(1.0, length),
        1.0, 8192.0));
  }
  const auto cut = sampleSection(world, request);
  if (!cut) return cut.error();
  SectionStyle style;
  style.patterns = style.depths = !options.plain;
  const TextPairs texts = {
      {"Seed", planOf(world).recipe().seed}, {"Recipe", recipeId(planOf(world).recipe()).hex()}};
  if (const Status written = writePicture(
          options.out, request.width, request.height, paintSection(world, *cut, style), texts);
      !written)
    return written.error();
  std::map<std::string, int64_t> counts;
  for (const MaterialIndex m : cut->blocks) ++counts[planOf(world).catalogue().materialId(m)];
  if (options.recipe.json) {
    Json shares = Json::object();
    for (const auto& [id, count] : counts) shares[id] = count;
    streams.out << Json{{"file", options.out}, {"from", {from->x, from->z}}, {"to", {to->x, to->z}},
                       {"altitudes", {request.low, request.high}},
                       {"size", {request.width, request.height}},
                       {"seed", planOf(world).recipe().seed}, {"columns", cut->cells.size()},
                       {"levels", cut->levels.count}, {"counts", shares}}
                       .dump(2)
                << "\n";
    return 0;
  }
  streams.out << fmt::format("{}: {} columns from {} to {}, altitudes {:.6g} to {:.6g}, seed {}\n",
      options.out, cut->cells.size(), options.from, options.to, request.low, request.high,
      planOf(world).recipe().seed);
  for (const auto& [id, count] : counts)
    streams.out << fmt::format("{:>9} blocks  {}\n", count, id);
  return 0;
}

}  // namespace

void addSection(CLI::App& app, Action& action) {
  const auto options = std::make_shared<SectionOptions>();
  options->recipe.addTo(app);
  app.add_option("--from", options->from, "X,Z: the cell where the cut begins; default -256,0");
  app.add_option("--to", options->to, "X,Z: where it ends; default 256,0");
  app.add_option("--range", options->range, "LOW,HIGH: altitudes; default: all that exist");
  app.add_option("--exaggeration", options->exaggeration, "Heights drawn so many times; default 1")
      ->check(CLI::Range(0.1, 100.0));
  app.add_option("--size", options->size, "WxH in pixels; default: by the cut's length");
  app.add_flag("--plain", options->plain,
      "Bare colours: no pen patterns but those that tell ground from paper, water in one colour");
  app.add_option("--out", options->out, "Picture to write: .png")->required();
  options->recipe.outputs = [options = options.get()] {
    return std::vector<std::filesystem::path>{options->out};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return section(*options, streams); };
  });
}

}  // namespace acre::cli
