#include "output/tile_art.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>

#include "base/data_uri.h"
#include "base/parallel.h"
#include "output/picture.h"
#include "tiling/tile_drawing.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr uint64_t kLargestArt = uint64_t{64} << 20;  // Bytes of a file.
constexpr uint32_t kOutline = 0x661F2D3A;             // Over the colour of an object's cells.

/// A tile of a picture of many.
std::vector<uint32_t> cutOut(
    const RgbaPicture& from, int32_t size, int32_t place, int32_t columns) {
  const int32_t x = place % columns * size, y = place / columns * size;
  std::vector<uint32_t> out;
  out.reserve(static_cast<size_t>(size) * static_cast<size_t>(size));
  for (int32_t j = 0; j < size; ++j)
    for (int32_t i = 0; i < size; ++i) out.push_back(from.at(x + i, y + j));
  return out;
}

/// The picture at another scale, without any smoothing.
std::vector<uint32_t> scaled(const std::vector<uint32_t>& from, int32_t size, int32_t to) {
  if (size == to) return from;
  std::vector<uint32_t> out;
  out.reserve(static_cast<size_t>(to) * static_cast<size_t>(to));
  const auto at = [&](int64_t n) { return (2 * n + 1) * size / (2 * to); };
  for (int32_t j = 0; j < to; ++j)
    for (int32_t i = 0; i < to; ++i) out.push_back(from[static_cast<size_t>(at(j) * size + at(i))]);
  return out;
}

/// A set's pictures at one scale, turned, as they are needed.
class TileStamps {
 public:
  TileStamps(const TileArt& art, int32_t zoom) : art_(art), zoom_(zoom) {}

  /// On the tile (x, z) of a picture that begins with the cell (0, 0); between: it lies between
  /// cells.
  void put(uint16_t value, bool between, int64_t x, int64_t z, RgbaPicture& out) {
    const Stamp& stamp = of(value);
    if (stamp.pixels.empty()) return;
    const int64_t offset = stamp.offset + (between ? zoom_ / 2 : 0);
    put(stamp, x * zoom_ + offset, z * zoom_ + offset, out);
  }

 private:
  struct Stamp {
    int32_t side = 0;
    int64_t offset = 0;  ///< From the cell's upper left corner, in pixels.
    std::vector<uint32_t> pixels;
  };

  const Stamp& of(uint16_t value) {
    const auto [at, fresh] = stamps_.try_emplace(value);
    if (!fresh) return at->second;
    const int picture = TileValue::picture(value);
    if (picture >= static_cast<int>(art_.pictures.size()) ||
        art_.pictures[static_cast<size_t>(picture)].empty())
      return at->second;
    Stamp& stamp = at->second;
    stamp.side = std::max(1, art_.size * zoom_ / art_.cell);
    stamp.pixels = scaled(art_.laid(picture, TileValue::orientation(value)), art_.size, stamp.side);
    if (art_.anchor == TileAnchor::Centre) stamp.offset = (zoom_ - stamp.side) / 2;
    return stamp;
  }

  static void put(const Stamp& stamp, int64_t x, int64_t y, RgbaPicture& out) {
    const int64_t i0 = std::max<int64_t>(0, -x), i1 = std::min<int64_t>(stamp.side, out.width - x);
    const int64_t j1 = std::min<int64_t>(stamp.side, out.height - y);
    for (int64_t j = std::max<int64_t>(0, -y); j < j1; ++j) {
      const uint32_t* from = stamp.pixels.data() + j * stamp.side;
      uint32_t* to = out.pixels.data() + (y + j) * out.width + x;
      for (int64_t i = i0; i < i1; ++i)
        if (from[i] >> 24) to[i] = laidOver(to[i], from[i]);
    }
  }

  const TileArt& art_;
  int32_t zoom_;
  std::map<uint16_t, Stamp> stamps_;
};

/// Fills cells of a picture that begins with one.
class CellPainter {
 public:
  CellPainter(RgbaPicture& out, Cell first, int32_t zoom) : out_(out), first_(first), zoom_(zoom) {}
  void fill(Cell cell, uint32_t colour) {
    const int64_t x = (cell.x - first_.x) * zoom_, y = (cell.z - first_.z) * zoom_;
    for (int32_t j = 0; j < zoom_; ++j)
      std::fill_n(out_.pixels.begin() + (y + j) * out_.width + x, zoom_, colour);
  }
  /// A line along one side of it, from the north clockwise.
  void line(Cell cell, int side, uint32_t colour) {
    const int64_t x = (cell.x - first_.x) * zoom_, y = (cell.z - first_.z) * zoom_;
    const int64_t end = zoom_ - 1;
    for (int32_t k = 0; k < zoom_; ++k) {
      const int64_t i = side == 1   ? end
                        : side == 3 ? 0
                                    : k,
                    j = side == 0   ? 0
                        : side == 2 ? end
                                    : k;
      out_.pixels[static_cast<size_t>((y + j) * out_.width + x + i)] = colour;
    }
  }

 private:
  RgbaPicture& out_;
  Cell first_;
  int32_t zoom_;
};

/// What some cells are made of, as tiles see it.
class Grounds {
 public:
  Grounds(const World& world, const Rect& cells)
      : world_(world), cells_(cells), held_(static_cast<size_t>(cells.width * cells.length)) {}
  Status make(const std::stop_token& stop) {
    return world_.tiles().materials(cells_, held_.data(), stop);
  }
  MaterialIndex at(Cell cell) const {
    return held_[static_cast<size_t>((cell.z - cells_.z) * cells_.width + cell.x - cells_.x)];
  }
  Status cut(const Rect& part, MaterialIndex* out) const {
    for (int64_t j = 0; j < part.length; ++j)
      std::copy_n(held_.data() + (part.z - cells_.z + j) * cells_.width + part.x - cells_.x,
          part.width, out + j * part.width);
    return done();
  }
  /// What is seen under the lowest group of a cell: its own ground where no group has it, else that
  /// of the first cell about it that is of none.
  MaterialIndex under(Cell cell) const {
    const MaterialIndex own = at(cell);
    const TileStage& stage = *world_.tiles().stage();
    if (!stage.classOf(own)) return own;
    constexpr int kAround[8][2] = {
        {0, -1}, {1, 0}, {0, 1}, {-1, 0}, {1, -1}, {1, 1}, {-1, 1}, {-1, -1}};
    for (const auto& [dx, dz] : kAround) {
      const MaterialIndex beside = at({cell.x + dx, cell.z + dz});
      if (beside != kOutside && !stage.classOf(beside)) return beside;
    }
    return own;
  }

 private:
  const World& world_;
  Rect cells_;
  std::vector<MaterialIndex> held_;
};

uint32_t colourOf(const World& world, MaterialIndex material) {
  const auto& materials = world.recipe().materials;
  if (material == kOutside) return kPaperColour;
  if (material == kOpen || material == kUnassigned || material > materials.size())
    return kOpenColour;
  return opaqueInk(materials[material - size_t{1}].colour);
}

/// Cells of objects in the colours of what they are made of.
Status layObjects(const World& world, const Grounds& grounds, const Rect& cells,
    CellPainter& painter, const std::stop_token& stop) {
  // In side worlds objects are seen from the side, and are blocks like others.
  if (!world.objectCells().any() || world.recipe().frame.kind == WorldKind::Side) return done();
  const Rect around = grown(cells, 1);
  std::vector<MaterialIndex> seen(static_cast<size_t>(around.width * around.length));
  std::vector<float> heights(seen.size());
  const SampleGrid grid{around.x, around.z, 1, static_cast<int32_t>(around.width),
      static_cast<int32_t>(around.length)};
  if (Status made = world.sample(grid, heights.data(), seen.data(), stop); !made) return made;
  const auto at = [&](Cell cell) {
    return seen[static_cast<size_t>((cell.z - around.z) * around.width + cell.x - around.x)];
  };
  for (int64_t z = cells.z; z < cells.z + cells.length; ++z)
    for (int64_t x = cells.x; x < cells.x + cells.width; ++x) {
      const MaterialIndex own = at({x, z});
      if (own == grounds.at({x, z}) || own == kOutside) continue;
      const uint32_t colour = colourOf(world, own);
      painter.fill({x, z}, colour);
      constexpr int kBeside[4][2] = {{0, -1}, {1, 0}, {0, 1}, {-1, 0}};
      for (int side = 0; side < 4; ++side)
        if (at({x + kBeside[side][0], z + kBeside[side][1]}) != own)
          painter.line({x, z}, side, laidOver(colour, kOutline));
    }
  return done();
}

}  // namespace

std::vector<uint32_t> TileArt::laid(int picture, int orientation) const {
  std::vector<uint32_t> now = pictures[static_cast<size_t>(picture)], next(now.size());
  const auto at = [this](int32_t x, int32_t y) { return static_cast<size_t>(y * size + x); };
  if (orientation >= 4) {
    for (int32_t y = 0; y < size; ++y)
      for (int32_t x = 0; x < size; ++x) next[at(size - 1 - x, y)] = now[at(x, y)];
    now.swap(next);
  }
  for (int t = orientation % 4; t > 0; --t) {
    for (int32_t y = 0; y < size; ++y)
      for (int32_t x = 0; x < size; ++x) next[at(size - 1 - y, x)] = now[at(x, y)];
    now.swap(next);
  }
  return now;
}

Result<TileArt> tilesIn(const std::string& file, const std::filesystem::path& folder,
    int32_t columns, const std::string& where) {
  const std::string accepted = fmt::format(
      "a PNG of 1 to {} pixels a side, of square tiles in {} columns", TileArt::kMostSide, columns);
  const bool within = isDataUri(file);
  const std::string name = within ? shownFile(file) : (folder / file).string();
  const auto picture = [&]() -> Result<RgbaPicture> {
    if (!within) return readRgba(folder / file, kLargestArt, TileArt::kMostSide, accepted);
    const auto bytes = bytesOfDataUri(file);
    if (!bytes) return bytes.error();
    return rgbaOf(*bytes, name, TileArt::kMostSide, accepted);
  }();
  if (!picture) {
    Error error = picture.error();
    error.where = fmt::format("{}, {}", where, error.where);
    return error;
  }
  const auto refuse = [&](std::string what) {
    return invalidInput(std::move(what), fmt::format("{}, {}", where, name), accepted);
  };
  const int32_t size = picture->width / columns;
  if (size == 0 || picture->width % columns != 0)
    return refuse(fmt::format("{} columns do not part {} pixels", columns, picture->width));
  if (picture->height % size != 0)
    return refuse(
        fmt::format("{} pixels high, which is no multiple of a tile's {}", picture->height, size));
  if (std::all_of(picture->pixels.begin(), picture->pixels.end(),
          [](uint32_t pixel) { return pixel >> 24 == 0; }))
    return refuse("a picture without a pixel that is not clear");
  TileArt out;
  out.size = out.cell = size;
  for (int32_t place = 0; place < columns * (picture->height / size); ++place)
    out.pictures.push_back(cutOut(*picture, size, place, columns));
  return out;
}

static Result<TileArt> wholeArtOf(
    const TileSet& set, const std::string& folder, const std::string& where) {
  const TileCases cases(set.method, set.turns);
  const auto count = static_cast<size_t>(cases.drawings() * mostVariants(set));
  TileArt out;
  if (!set.picture) {
    out.size = out.cell = set.drawn.size;
    for (size_t n = 0; n < count; ++n) {
      const int drawing = static_cast<int>(n) % cases.drawings();
      out.pictures.push_back(drawnTile(set.drawn, set.method,
          cases.maskOf(cases.caseOfDrawing(drawing)), static_cast<int>(n) / cases.drawings()));
    }
    return out;
  }
  auto tiles = tilesIn(set.picture->file, folder, set.picture->columns, where + "/picture");
  if (!tiles) return tiles.error();
  out.size = tiles->size;
  out.cell = set.picture->cell ? set.picture->cell : out.size;
  if (out.size > TileArt::kMostReach * out.cell)
    return invalidInput(fmt::format("tiles of {} pixels where a cell takes {}", out.size, out.cell),
        where + "/picture/cell",
        fmt::format("cells of at least {} pixels here",
            (out.size + TileArt::kMostReach - 1) / TileArt::kMostReach));
  out.anchor = set.picture->anchor;
  out.pictures.resize(count);
  for (size_t place = 0; place < tiles->pictures.size(); ++place) {
    const std::vector<int32_t>& order = set.picture->order;
    const int64_t number = order.empty()          ? static_cast<int64_t>(place)
                           : place < order.size() ? order[place]
                                                  : -1;
    if (number < 0 || number >= static_cast<int64_t>(count)) continue;
    std::vector<uint32_t>& tile = tiles->pictures[place];
    // A place that holds nothing holds no tile.
    if (std::any_of(tile.begin(), tile.end(), [](uint32_t pixel) { return pixel >> 24 != 0; }))
      out.pictures[static_cast<size_t>(number)] = std::move(tile);
  }
  return out;
}

Result<TileArt> tileArtOf(const TileSet& set, const std::string& folder, const std::string& where) {
  auto art = wholeArtOf(set, folder, where);
  if (!art) return art;
  const TileCases cases(set.method, set.turns);
  for (const int32_t drawing : set.without)
    for (auto n = static_cast<size_t>(drawing); n < art->pictures.size();
         n += static_cast<size_t>(cases.drawings()))
      art->pictures[n].clear();
  return art;
}

RgbaPicture drawBoard(
    const TileSet& set, const TileArt& art, const TileBoard& board, int32_t zoom) {
  RgbaPicture out{board.width * zoom, board.length * zoom, {}};
  out.pixels.assign(static_cast<size_t>(out.width) * static_cast<size_t>(out.height), kPaperColour);
  const TileCases cases(set.method, set.turns);
  TileStamps stamps(art, zoom);
  for (int32_t z = -1; z < board.length; ++z)
    for (int32_t x = -1; x < board.width; ++x) {
      const int number = board.caseAt(cases, x, z);
      if (number < 0) continue;
      const std::vector<int32_t>& weights = weightsOf(set, number);
      // Any picture of those that have a weight, in turn.
      int variant = (x * 7 + z * 13 + 20) % static_cast<int>(weights.size());
      while (weights[static_cast<size_t>(variant)] == 0)
        variant = (variant + 1) % static_cast<int>(weights.size());
      stamps.put(TileValue::of(cases.drawingOf(number) + cases.drawings() * variant,
                     cases.orientationOf(number)),
          set.method == TileMethod::Corners, x, z, out);
    }
  return out;
}

int TileBoard::caseAt(const TileCases& cases, int32_t x, int32_t z) const {
  const uint8_t mask =
      maskAround(cases.method(), [&](int dx, int dz) { return at(x + dx, z + dz); });
  const bool there = cases.method() == TileMethod::Corners ? mask != 0 : at(x, z);
  return there ? cases.caseOf(mask) : -1;
}

TileBoard TileBoard::ofEveryCase(const TileCases& cases) {
  const bool corners = cases.method() == TileMethod::Corners;
  const int apart = corners ? 3 : 4;
  int across = 1;
  while (across * across < cases.count()) ++across;
  TileBoard out(across * apart + 1, across * apart + 1);
  for (int n = 0; n < cases.count(); ++n) {
    const int x = n % across * apart + 1, z = n / across * apart + 1;
    const uint8_t mask = cases.maskOf(n);
    constexpr int kAround[8][2] = {
        {0, -1}, {1, -1}, {1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}};
    if (corners) {
      constexpr int kOf[4][2] = {{0, 1}, {1, 1}, {1, 0}, {0, 0}};
      for (int k = 0; k < 4; ++k)
        if (mask >> k & 1) out.set(x + kOf[k][0], z + kOf[k][1], true);
      continue;
    }
    out.set(x, z, true);
    const int step = cases.method() == TileMethod::Sides ? 2 : 1;
    for (int k = 0; k < cases.bits(); ++k)
      if (mask >> k & 1) out.set(x + kAround[k * step][0], z + kAround[k * step][1], true);
  }
  return out;
}

Result<TileArts> TileArts::of(const World& world) {
  TileArts out;
  const TileStage* stage = world.tiles().stage();
  if (!stage) return out;
  std::optional<Error> first;
  for (int g = 0; g < stage->groups(); ++g) {
    const auto& sets = world.recipe().tiles->sets;
    const auto place = std::find_if(sets.begin(), sets.end(), [&](const TileSet& set) {
      return set.id == stage->set(g).id;
    }) - sets.begin();
    auto art =
        tileArtOf(stage->set(g), world.recipe().folder, fmt::format("/tiles/sets/{}", place));
    if (art) {
      out.arts_.push_back(std::move(*art));
      continue;
    }
    if (!first)
      first = art.error();
    else if (first->where.find(art.error().where) == std::string::npos)
      first->where += "; " + art.error().where;
  }
  if (first) return *first;
  return out;
}

int64_t TileArts::reach() const {
  int64_t reach = 1;  // Tiles between corners lie half on the next cell.
  for (const TileArt& art : arts_)
    reach = std::max<int64_t>(reach, (art.size + art.cell - 1) / art.cell);
  return reach;
}

HiddenTiles::HiddenTiles(const TilePlanes& planes, const TileStage& stage, const TileArts& arts)
    : cells_(planes.cells),
      wide_(2 * static_cast<size_t>(cells_.width)),
      top_(wide_ * 2 * static_cast<size_t>(cells_.length)) {
  for (int g = 0; g < stage.groups(); ++g) {
    const TileArt& art = arts.art(g);
    if (art.size != art.cell) continue;
    std::vector<bool> whole;  // By picture: without a pixel that is seen through.
    for (const std::vector<uint32_t>& pixels : art.pictures)
      whole.push_back(!pixels.empty() && std::all_of(pixels.begin(), pixels.end(),
                                             [](uint32_t p) { return p >> 24 == 255; }));
    const bool between = stage.set(g).method == TileMethod::Corners;
    for (int64_t z = cells_.z; z < cells_.z + cells_.length; ++z)
      for (int64_t x = cells_.x; x < cells_.x + cells_.width; ++x) {
        const uint16_t value = planes.at(g, {x, z});
        if (value == TileValue::kNone) continue;
        const auto picture = static_cast<size_t>(TileValue::picture(value));
        if (picture < whole.size() && whole[picture])
          quarters({x, z}, between, [&](size_t at) {
            top_[at] = static_cast<uint8_t>(g + 1);
            return true;
          });
      }
  }
}

bool HiddenTiles::at(int group, Cell cell, bool between) const {
  return quarters(cell, between, [&](size_t at) { return top_[at] > group + 1; });
}

template <class Each>
bool HiddenTiles::quarters(Cell cell, bool between, const Each& each) const {
  const int64_t x = 2 * (cell.x - cells_.x) + between, z = 2 * (cell.z - cells_.z) + between;
  bool all = true;
  for (int k = 0; k < 4; ++k) {
    const int64_t i = x + k % 2, j = z + k / 2;
    if (i < static_cast<int64_t>(wide_) && j < 2 * cells_.length)
      all = each(static_cast<size_t>(j) * wide_ + static_cast<size_t>(i)) && all;
  }
  return all;
}

Result<RgbaPicture> drawTiles(const World& world, const TileArts& arts, const Rect& cells,
    const TileMapLook& look, const std::stop_token& stop, TilePlanes* told) {
  const TilePass& pass = world.tiles();
  const Rect tiles = grown(cells, arts.reach()), around = grown(tiles, 1);
  Grounds grounds(world, around);
  if (Status made = grounds.make(stop); !made) return made.error();
  RgbaPicture out{static_cast<int32_t>(cells.width * look.zoom),
      static_cast<int32_t>(cells.length * look.zoom), {}};
  out.pixels.assign(static_cast<size_t>(out.width) * static_cast<size_t>(out.height), kPaperColour);
  if (!pass.stage()) return out;
  auto planes = pass.planesOf(
      tiles, [&](const Rect& part, MaterialIndex* to) { return grounds.cut(part, to); }, stop);
  if (!planes) return planes.error();
  CellPainter painter(out, {cells.x, cells.z}, look.zoom);
  const auto each = [](const Rect& rect, const auto& visit) {
    for (int64_t z = rect.z; z < rect.z + rect.length; ++z)
      for (int64_t x = rect.x; x < rect.x + rect.width; ++x) visit(Cell{x, z});
  };
  const HiddenTiles hidden(*planes, *pass.stage(), arts);
  each(cells, [&](Cell cell) {
    if (pass.plane().contains(cell) && !hidden.at(-1, cell, false))
      painter.fill(cell, colourOf(world, grounds.under(cell)));
  });
  for (int g = 0; g < pass.stage()->groups(); ++g) {
    if (stop.stop_requested()) return cancelled();
    TileStamps stamps(arts.art(g), look.zoom);
    const bool between = pass.stage()->set(g).method == TileMethod::Corners;
    const bool larger = arts.art(g).size != arts.art(g).cell;  // It reaches beyond its quarters.
    each(tiles, [&](Cell cell) {
      const uint16_t value = planes->at(g, cell);
      if (value != TileValue::kNone && (larger || !hidden.at(g, cell, between)))
        stamps.put(value, between, cell.x - cells.x, cell.z - cells.z, out);
    });
  }
  // Larger pictures, and those between corners, end with the world.
  each(cells, [&](Cell cell) {
    if (!pass.plane().contains(cell)) painter.fill(cell, kPaperColour);
  });
  if (Status laid = layObjects(world, grounds, cells, painter, stop); !laid) return laid.error();
  if (told) *told = std::move(*planes);
  return out;
}

Status writeTileMap(const World& world, const TileMapRequest& request,
    const std::filesystem::path& file, const TextPairs& texts) {
  constexpr int64_t kRows = 32, kSide = 128;  // Cells at a time, and of each part of them.
  if (!world.tiles().stage())
    return invalidInput("this world has no tiles", "--show",
        "worlds whose stage Tiles is on, with a group that is on");
  const int64_t width = request.cells.width * request.look.zoom;
  const int64_t height = request.cells.length * request.look.zoom;
  if (width > TileMapRequest::kLongestSide || height > TileMapRequest::kLongestSide)
    return invalidInput(fmt::format("{} x {} pixels", width, height), "--size, --zoom",
        fmt::format("at most {} pixels a side", TileMapRequest::kLongestSide));
  const auto arts = TileArts::of(world);
  if (!arts) return arts.error();
  auto writer = PngWriter::create(
      file, static_cast<uint32_t>(width), static_cast<uint32_t>(height), PngPixels::Rgb8, texts);
  if (!writer) return writer.error();
  for (int64_t row = 0; row < request.cells.length; row += kRows) {
    const int64_t rows = std::min(kRows, request.cells.length - row);
    const auto parts = static_cast<int32_t>((request.cells.width + kSide - 1) / kSide);
    std::vector<std::optional<Result<RgbaPicture>>> drawn(static_cast<size_t>(parts));
    parallelFor(request.threads, parts, [&](int32_t n) {
      const int64_t x = n * kSide;
      drawn[static_cast<size_t>(n)] = drawTiles(world, *arts,
          {request.cells.x + x, request.cells.z + row, std::min(kSide, request.cells.width - x),
              rows},
          request.look, request.stop);
    });
    for (const auto& part : drawn)
      if (!*part) return part->error();
    std::vector<uint32_t> line;
    for (int32_t j = 0; j < rows * request.look.zoom; ++j) {
      line.clear();
      for (const auto& part : drawn) {
        const RgbaPicture& of = **part;
        line.insert(line.end(), of.pixels.begin() + static_cast<ptrdiff_t>(j) * of.width,
            of.pixels.begin() + static_cast<ptrdiff_t>(j + 1) * of.width);
      }
      if (Status written = writer->rowRgb(line.data()); !written) return written;
    }
    if (request.progress)
      request.progress(static_cast<double>(row + rows) / static_cast<double>(request.cells.length));
  }
  return writer->finish();
}

}  // namespace acre
