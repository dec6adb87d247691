#include "app/overlay/tile_layer.h"

#include <QElapsedTimer>

#include "app/look/look.h"
#include "output/tile_art.h"
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

/// By drawing and orientation, the case.
int caseOf(const acre::TileCases& cases, uint16_t value) {
  const int drawing = acre::TileValue::picture(value) % cases.drawings();
  for (int n = 0; n < cases.count(); ++n)
    if (cases.drawingOf(n) == drawing &&
        cases.orientationOf(n) == acre::TileValue::orientation(value))
      return n;
  return 0;
}

}  // namespace

std::shared_ptr<const MapOverlay> TileLayer::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const acre::TilePass* pass = passOf(world, view);
  if (!pass) return nullptr;
  QElapsedTimer clock;
  clock.start();
  const auto arts = acre::TileArts::of(world);
  if (!arts) return nullptr;  // A check tells why.
  auto out = std::make_shared<TileLayer>();
  out->cells_ = acre::grown(view.cells(), kMargin);
  out->zoom_ = std::clamp(static_cast<int>(std::lround(1 / view.cellsPerPixel)), 1,
      int{acre::TileSheetLook::kMostZoom});
  const auto drawn = acre::drawTiles(world, *arts, out->cells_, {out->zoom_, true}, stop);
  const auto planes = drawn ? pass->planes(out->cells_, stop) : acre::cancelled();
  if (!drawn || !planes) return nullptr;
  out->picture_ = QImage(drawn->width, drawn->height, QImage::Format_RGB32);
  for (int y = 0; y < drawn->height; ++y)
    std::copy_n(drawn->pixels.data() + static_cast<ptrdiff_t>(y) * drawn->width, drawn->width,
        reinterpret_cast<uint32_t*>(out->picture_.scanLine(y)));
  const acre::TileStage& stage = *pass->stage();
  for (int64_t z = out->cells_.z; z < out->cells_.z + out->cells_.length; ++z)
    for (int64_t x = out->cells_.x; x < out->cells_.x + out->cells_.width; ++x) {
      // The uppermost is what one sees.
      QString words;
      for (int g = stage.groups(); g-- > 0 && words.isEmpty();)
        if (const uint16_t value = planes->at(g, {x, z}))
          words = QObject::tr("tile: %1, case %2 of the set %3")
                      .arg(QString::fromStdString(stage.group(g).name))
                      .arg(caseOf(stage.cases(g), value))
                      .arg(QString::fromStdString(stage.set(g).name));
      out->words_.push_back(words);
    }
  out->took_ = static_cast<double>(clock.nsecsElapsed()) / 1e6;
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
  return words_[static_cast<size_t>((cell.z - cells_.z) * cells_.width + cell.x - cells_.x)];
}

// ---- marks -------------------------------------------------------------------------------------

std::shared_ptr<const MapOverlay> TileMarks::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const acre::TilePass* pass = passOf(world, view);
  if (!pass) return nullptr;
  const acre::Rect cells = view.cells();
  const auto planes = pass->planes(cells, stop);
  const auto arts = acre::TileArts::of(world);
  if (!planes || !arts) return nullptr;
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
        const int number = caseOf(cases, value);
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
