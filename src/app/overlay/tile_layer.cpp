#include "app/overlay/tile_layer.h"

#include <algorithm>

#include "app/look/look.h"
#include "world/world.h"

namespace app {
namespace {

constexpr int kMargin = 8;  // Cells around the view, so that little is bare while it glides.

/// Nothing where no tiles are drawn.
const acre::TilePass* passOf(const acre::World& world, const MapGeometry& view) {
  const acre::TilePass& pass = world.tiles();
  // A side world is seen in its section.
  const bool fromAbove = planOf(world).recipe().frame.kind != acre::WorldKind::Side;
  const bool fine = view.cellsPerPixel * TileLayer::kFewestPixels <= 1 + 1e-9;
  return pass.stage() && fromAbove && fine ? &pass : nullptr;
}

/// Which places a mask looks at, in cells from a tile's upper left corner, by bit.
std::vector<QPointF> dotsOf(acre::TileMethod method) {
  constexpr double a = 1 / 6.0, b = 0.5, c = 5 / 6.0;
  switch (method) {
    case acre::TileMethod::Corners:
      return {{a, c}, {c, c}, {c, a}, {a, a}};
    case acre::TileMethod::Neighbours:
      return {{b, a}, {c, a}, {c, b}, {c, c}, {b, c}, {a, c}, {a, b}, {a, a}};
    case acre::TileMethod::Sides:
      return {{b, a}, {c, b}, {b, c}, {a, b}};
    case acre::TileMethod::Plain:
      break;
  }
  return {};
}

}  // namespace

std::shared_ptr<const acre::TileArts> KeptArts::of(const acre::World& world) {
  const acre::Tiling& tiling = *planOf(world).recipe().tiles;
  const bool files = std::any_of(tiling.sets.begin(), tiling.sets.end(),
      [](const acre::TileSet& set) { return set.picture.has_value(); });
  const std::lock_guard lock(mutex_);
  if (arts_ && !files && tiling_ == tiling) return arts_;
  auto made = acre::TileArts::of(world);
  if (!made) return nullptr;
  tiling_ = tiling;
  arts_ = std::make_shared<const acre::TileArts>(std::move(*made));
  return arts_;
}

std::shared_ptr<const MapOverlay> TileLayer::make(const acre::World& world, const MapGeometry& view,
    KeptArts& kept, const std::stop_token& stop) {
  const acre::TilePass* pass = passOf(world, view);
  const auto arts = pass ? kept.of(world) : nullptr;
  if (!arts) return nullptr;
  auto out = std::make_shared<TileLayer>();
  out->cells_ = acre::grown(view.cells(), kMargin);
  out->zoom_ = std::clamp(
      static_cast<int>(std::lround(1 / view.cellsPerPixel)), 1, int{acre::TileMapLook::kMostZoom});
  const auto drawn = acre::drawTiles(world, *arts, out->cells_, {out->zoom_}, stop, &out->planes_);
  if (!drawn) return nullptr;
  out->stage_ = pass->shared();
  out->picture_ = QImage(drawn->width, drawn->height, QImage::Format_RGB32);
  for (int y = 0; y < drawn->height; ++y)
    std::copy_n(drawn->pixels.data() + static_cast<ptrdiff_t>(y) * drawn->width, drawn->width,
        reinterpret_cast<uint32_t*>(out->picture_.scanLine(y)));
  return out;
}

void TileLayer::paint(QPainter& p, const MapGeometry& view) const {
  // Of another scale it would only be wrong.
  if (std::abs(view.cellsPerPixel * zoom_ - 1) > 0.5) return;
  const QPointF at = view.toScreen({cells_.x, cells_.z});
  const double scale = 1 / view.cellsPerPixel / zoom_;
  p.save();
  p.setRenderHint(QPainter::SmoothPixmapTransform, false);
  const QPointF corner(std::round(at.x()), std::round(at.y()));
  if (std::abs(scale - 1) < 1e-9)
    p.drawImage(corner, picture_);
  else
    p.drawImage(QRectF(corner, QSizeF(picture_.size()) * scale), picture_);
  p.restore();
}

QString TileLayer::at(QPointF place, const MapGeometry& view) const {
  const acre::Cell cell = view.toWorld(place).cell;
  if (!cells_.contains(cell)) return {};
  for (int g = stage_->groups(); g-- > 0;)  // The uppermost is what one sees.
    if (const uint16_t value = planes_.at(g, cell))
      return QObject::tr("tile: %1, case %2 of the set %3")
          .arg(QString::fromStdString(stage_->group(g).name))
          .arg(stage_->cases(g).caseShown(value))
          .arg(QString::fromStdString(stage_->set(g).name));
  return {};
}

// ---- marks -------------------------------------------------------------------------------------

std::shared_ptr<const MapOverlay> TileMarks::make(const acre::World& world, const MapGeometry& view,
    KeptArts& kept, const std::stop_token& stop) {
  const acre::TilePass* pass = passOf(world, view);
  const auto arts = pass ? kept.of(world) : nullptr;
  if (!arts) return nullptr;
  const acre::Rect cells = view.cells();
  const auto planes = pass->planes(cells, stop);
  if (!planes) return nullptr;
  const acre::TileStage& stage = *pass->stage();
  auto out = std::make_shared<TileMarks>();
  for (int64_t z = cells.z; z < cells.z + cells.length; ++z)
    for (int64_t x = cells.x; x < cells.x + cells.width; ++x) {
      bool dotted = false;
      for (int g = stage.groups(); g-- > 0;) {
        const uint16_t value = planes->at(g, {x, z});
        if (!value) continue;
        const acre::TileCases& cases = stage.cases(g);
        const bool between = cases.method() == acre::TileMethod::Corners;
        const double shift = between ? 0.5 : 0;
        const int number = cases.caseShown(value);
        const auto picture = static_cast<size_t>(acre::TileValue::picture(value));
        const auto& pictures = arts->art(g).pictures;
        const bool missing = picture >= pictures.size() || pictures[picture].empty();
        if (missing || cases.ambiguous(number)) {
          out->rings_.push_back({{x, z}, 0.5 + shift, 0.5 + shift, missing});
          ++(missing ? out->missing_ : out->ambiguous_);
        }
        // Dots of the uppermost that has a border there.
        const uint8_t mask = cases.maskOf(number);
        const auto dots = dotsOf(cases.method());
        if (dotted || dots.empty() || mask == (1u << cases.bits()) - 1) continue;
        dotted = true;
        for (size_t k = 0; k < dots.size(); ++k)
          out->dots_.push_back(
              {{x, z}, dots[k].x() + shift, dots[k].y() + shift, (mask >> k & 1) != 0});
      }
    }
  return out;
}

void TileMarks::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  const double scale = 1 / view.cellsPerPixel;
  const acre::Rect cells = view.cells();
  QColor grid = t.ink;
  grid.setAlphaF(0.18F);
  p.setPen(grid);
  for (int64_t x = cells.x; x <= cells.x + cells.width; ++x) {
    const double at = std::round(view.toScreen({x, cells.z}).x());
    p.drawLine(QPointF(at, 0), QPointF(at, view.size.height()));
  }
  for (int64_t z = cells.z; z <= cells.z + cells.length; ++z) {
    const double at = std::round(view.toScreen({cells.x, z}).y());
    p.drawLine(QPointF(0, at), QPointF(view.size.width(), at));
  }
  p.setRenderHint(QPainter::Antialiasing);
  const double radius = std::clamp(scale / 14, 1.0, 3.0);
  p.setPen(QPen(t.ink, 0.8));
  for (const Mark& dot : dots_) {
    p.setBrush(dot.filled ? t.ink : t.sheet);
    p.drawEllipse(view.toScreen(dot.cell, dot.fx, dot.fz), radius, radius);
  }
  p.setBrush(Qt::NoBrush);
  for (const Ring& ring : rings_) {
    const QPointF at = view.toScreen(ring.cell, ring.fx, ring.fz);
    const double side = scale * 0.46;
    for (const auto& [colour, width] : {std::pair(t.sheet, 3.6), std::pair(t.ink, 1.6)}) {
      p.setPen(QPen(colour, width, ring.missing ? Qt::SolidLine : Qt::DashLine));
      if (ring.missing) {
        p.drawRect(QRectF(at.x() - side, at.y() - side, 2 * side, 2 * side));
        p.drawLine(at - QPointF(side, side), at + QPointF(side, side));
      } else {
        p.drawEllipse(at, side, side);
      }
    }
  }
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  look::drawHaloText(p, {12, view.size.height() - 62.0}, spoken());
}

QString TileMarks::spoken() const {
  return QObject::tr("%1 tiles of opposite corners, %2 without a picture")
      .arg(look::wholeNumber(ambiguous_), look::wholeNumber(missing_));
}

}  // namespace app
