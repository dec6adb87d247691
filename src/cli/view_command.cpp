#include <fmt/format.h>

#include <charconv>
#include <chrono>
#include <cmath>

#include "base/parallel.h"
#include "cli/common.h"
#include "output/png.h"
#include "view/loading.h"

namespace acre::cli {
namespace {

struct ViewOptions {
  RecipeOptions recipe;
  std::string from;
  std::optional<double> y;
  std::string look = "0,-15";
  std::string size = "1200x700";
  double distance = 320;
  double field = 70;
  bool chunks = false, wireframe = false, lamp = false, smooth = false, clearLeaves = false;
  std::string out;
};

/// "X,Y,Z": cells with fractions; "X,Z" stands on the ground.
Result<Eye> eyeFrom(const World& world, const std::string& text, std::optional<double> y) {
  const auto refuse = [&](std::string what) {
    return invalidInput(std::move(what), "--from",
        "X,Z: two numbers, and after --y how high, or without it on the ground");
  };
  std::vector<double> numbers;
  for (size_t at = 0; at <= text.size();) {
    const size_t comma = std::min(text.find(',', at), text.size());
    double v = 0;
    const auto read = std::from_chars(text.data() + at, text.data() + comma, v);
    if (read.ec != std::errc() || read.ptr != text.data() + comma || !std::isfinite(v))
      return refuse(fmt::format("\"{:.80}\" is no place", text));
    numbers.push_back(v);
    at = comma + 1;
  }
  if (numbers.size() == 3) return refuse(fmt::format("\"{:.80}\" is three numbers", text));
  if (numbers.size() != 2) return refuse(fmt::format("\"{:.80}\" is no place", text));
  constexpr double kFarthest = 0x1p52;
  for (const double v : numbers)
    if (std::abs(v) > kFarthest) return refuse(fmt::format("\"{:.80}\" is too far out", text));
  Eye eye;
  eye.x = eye.z = 0;
  eye.move(numbers[0], 0, numbers[1]);
  if (y && !(std::abs(*y) <= kFarthest)) return invalidInput(fmt::format("{}", *y), "--y", "±2^52");
  if (y) {
    eye.y = *y;
    return eye;
  }
  const auto stand = standAt(world, {eye.cellX, eye.cellZ});
  if (!stand) return refuse("nobody can stand there: the column is closed from floor to top");
  eye.y = static_cast<double>(*stand) + kEyeHeight;
  return eye;
}

Result<int> view(const ViewOptions& options, Streams& streams) {
  const auto size = parseSize(options.size, "--size", 8192);
  if (!size) return size.error();
  const auto look = parseRange(options.look, "--look");
  if (!look || std::abs(look->second) > 90 || !(std::abs(look->first) <= 1e6))
    return Error{Error::Code::InvalidInput, fmt::format("\"{:.80}\"", options.look), "--look",
        "YAW,PITCH in degrees: clockwise from north, and -90 to 90 upward"};
  if (std::filesystem::path(options.out).extension() != ".png")
    return Error{Error::Code::InvalidInput, fmt::format("\"{}\" tells no format", options.out),
        "--out", "a name that ends in .png"};
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  auto eye = eyeFrom(world, options.from.empty() ? "0,0" : options.from, options.y);
  if (!eye) return eye.error();
  eye->yaw = look->first;
  eye->pitch = look->second;
  eye->field = options.field;
  ViewStyle style = styleFor(world, options.clearLeaves && !options.smooth);
  style.distance = options.distance;
  style.lamp = options.lamp;
  style.wireframe = options.wireframe;
  style.chunk = options.chunks ? planOf(world).groundLayout().size() : 0;
  ViewPicture picture;
  picture.width = size->first;
  picture.height = size->second;
  std::optional<Result<Scene>> scene;
  const auto begin = std::chrono::steady_clock::now();
  auto loadedAt = begin, drawnAt = begin;
  withThreads(options.recipe.threadCount(), [&] {
    scene = loadScene(world, *eye, options.distance, options.smooth, options.clearLeaves);
    loadedAt = std::chrono::steady_clock::now();
    if (scene->ok()) drawScene(**scene, *eye, style, picture);
    drawnAt = std::chrono::steady_clock::now();
  });
  if (!*scene) return scene->error();
  const TextPairs texts = {
      {"Seed", planOf(world).recipe().seed}, {"Recipe", recipeId(planOf(world).recipe()).hex()}};
  if (const Status written =
          writePicture(options.out, picture.width, picture.height, picture.argb, texts);
      !written)
    return written.error();
  uint64_t faces = 0, quads = 0, triangles = 0;
  for (const ScenePart& part : **scene) {
    faces += part.mesh->faces;
    quads += part.mesh->quads.size();
    triangles += part.mesh->triangles.size();
  }
  const auto seconds = [](auto from, auto to) {
    return std::chrono::duration<double>(to - from).count();
  };
  if (options.recipe.json) {
    streams.out << Json{{"file", options.out}, {"size", {picture.width, picture.height}},
                       {"eye", {static_cast<double>(eye->cellX) + eye->x, eye->y,
                                   static_cast<double>(eye->cellZ) + eye->z}},
                       {"look", {eye->yaw, eye->pitch}}, {"seed", planOf(world).recipe().seed},
                       {"bricks", (*scene)->size()}, {"faces", faces}, {"rectangles", quads},
                       {"triangles", triangles}, {"drawn", picture.drawn},
                       {"loadSeconds", seconds(begin, loadedAt)},
                       {"drawSeconds", seconds(loadedAt, drawnAt)}}
                       .dump(2)
                << "\n";
    return 0;
  }
  streams.out << fmt::format("{}: from {:.6g},{:.6g},{:.6g} looking {:.4g},{:.4g}, seed {}\n",
                     options.out, static_cast<double>(eye->cellX) + eye->x, eye->y,
                     static_cast<double>(eye->cellZ) + eye->z, eye->yaw, eye->pitch,
                     planOf(world).recipe().seed)
              << (options.smooth ? fmt::format("{} triangles, {} drawn\n", triangles, picture.drawn)
                                 : fmt::format("{} faces in {} rectangles, {} drawn\n", faces,
                                       quads, picture.drawn))
              << fmt::format("loaded in {:.3f} s, drawn in {:.3f} s\n", seconds(begin, loadedAt),
                     seconds(loadedAt, drawnAt));
  return 0;
}

}  // namespace

void addView(CLI::App& app, Action& action) {
  const auto options = std::make_shared<ViewOptions>();
  options->recipe.addTo(app);
  app.add_option("--from", options->from, "X,Z: where the eye is; default 0,0");
  app.add_option("--y", options->y, "How high the eye is; default: standing on the ground");
  app.add_option("--look", options->look,
      "YAW,PITCH in degrees, clockwise from north and upward; default 0,-15");
  app.add_option("--size", options->size, "WxH in pixels; default 1200x700");
  app.add_option("--distance", options->distance, "View distance in cells; default 320")
      ->check(CLI::Range(8.0, 4096.0));
  app.add_option("--field", options->field, "Degrees from left to right; default 70")
      ->check(CLI::Range(20.0, 120.0));
  app.add_flag("--smooth", options->smooth, "A smooth surface instead of blocks");
  app.add_flag(
      "--clear-leaves", options->clearLeaves, "Leaves of trees, as blocks, let light through");
  app.add_flag("--chunks", options->chunks, "Lines where chunks meet");
  app.add_flag("--wireframe", options->wireframe, "The merged rectangles' outlines alone");
  app.add_flag("--lamp", options->lamp, "Dark, but for a lamp that the eye carries");
  app.add_option("--out", options->out, "Picture to write: .png")->required();
  options->recipe.outputs = [options = options.get()] {
    return std::vector<std::filesystem::path>{options->out};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return view(*options, streams); };
  });
}

}  // namespace acre::cli
