#include "app/overlay/pen_signs.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "app/overlay/tile_layer.h"
#include "base/hash.h"
#include "output/shading.h"
#include "world/world.h"

namespace app {
namespace {

constexpr int kSignsMargin = 12;  // Cells around the view, so that little is bare while it glides.
constexpr double kInkShare = 0.34, kCoastShare = 0.75;

uint64_t hashOfCell(acre::Cell c) {
  return acre::mix64(acre::mix64(static_cast<uint64_t>(c.x)) ^ static_cast<uint64_t>(c.z));
}

/// How many of 64 cells have a sign.
int ofSixtyFour(PenSign sign) {
  return sign == PenSign::Waves ? 4 : sign == PenSign::Rings ? 10 : 16;
}

/// One sign in a cell: `at` is its middle, `side` the pixels of a cell.
void draw(QPainter& p, PenSign sign, QPointF at, double side, uint64_t hash) {
  const double r = std::min(side, 14.0) * 0.3;
  // Signs do not stand in rank and file.
  const auto part = [&](int shift) { return static_cast<double>(hash >> shift & 255) / 255 - 0.5; };
  at += QPointF(part(8), part(16)) * side * 0.3;
  at = {std::round(at.x() * 16) / 16, std::round(at.y() * 16) / 16};  // Everywhere the same pixels.
  switch (sign) {
    case PenSign::Dots:
      p.drawPoint(at);
      p.drawPoint(at + QPointF(r, r * 0.6));
      break;
    case PenSign::Blades:
      for (const double lean : {-0.55, 0.0, 0.55})
        p.drawLine(at + QPointF(0, r), at + QPointF(lean * r, -r));
      break;
    case PenSign::Rings:
      p.drawEllipse(at, r * 0.8, r * 0.8);
      break;
    case PenSign::Dashes:
      p.drawLine(at - QPointF(r, 0), at + QPointF(r, 0));
      break;
    case PenSign::Strokes:
      p.drawLine(at + QPointF(-r * 0.35, r), at + QPointF(r * 0.35, -r));
      break;
    case PenSign::Waves:
      p.drawArc(QRectF(at.x() - 2 * r, at.y() - r / 2, 2 * r, r), 0, 180 * 16);
      p.drawArc(QRectF(at.x(), at.y() - r / 2, 2 * r, r), 180 * 16, 180 * 16);
      break;
  }
}

}  // namespace

PenSign penSignOf(const acre::Material& material) {
  if (material.state == acre::MaterialState::Liquid) return PenSign::Waves;
  const QColor ink = QColor::fromRgb(acre::opaqueInk(material.colour));
  constexpr double kGrey = 0.16, kDark = 0.36;
  constexpr int kLeastGreen = 52, kMostGreen = 170;
  if (ink.hslSaturationF() < kGrey) return PenSign::Strokes;
  if (ink.hslHue() >= kLeastGreen && ink.hslHue() <= kMostGreen)
    return material.state == acre::MaterialState::Passable || ink.lightnessF() > 0.5F
               ? PenSign::Blades
               : PenSign::Rings;
  return ink.lightnessF() < kDark ? PenSign::Dashes : PenSign::Dots;
}

std::shared_ptr<const MapOverlay> PenSigns::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const double side = 1 / view.cellsPerPixel;
  const acre::Recipe& recipe = planOf(world).recipe();
  if (side < kFewestPixels || recipe.frame.kind == acre::WorldKind::Side) return nullptr;
  if (world.tiles().stage() && side >= TileLayer::kFewestPixels - 1e-9) return nullptr;
  const acre::Rect cells = acre::grown(view.cells(), kSignsMargin);
  const acre::Rect around = acre::grown(cells, 1);
  const auto stride = static_cast<size_t>(around.width);
  std::vector<float> heights(stride * static_cast<size_t>(around.length));
  std::vector<acre::MaterialIndex> things(heights.size());
  if (!world.sample({around.x, around.z, 1, static_cast<int32_t>(around.width),
                        static_cast<int32_t>(around.length)},
          heights.data(), things.data(), stop))
    return nullptr;
  std::vector<PenSign> signs(1, PenSign::Dots);
  std::vector<bool> wet(1, false);
  for (const acre::Material& m : recipe.materials) {
    signs.push_back(penSignOf(m));
    wet.push_back(m.state == acre::MaterialState::Liquid);
  }
  auto out = std::make_shared<PenSigns>();
  out->cells_ = cells;
  out->cellsPerPixel_ = view.cellsPerPixel;
  const double ratio = view.deviceRatio;
  const QSizeF size(static_cast<double>(cells.width) * side * ratio,
      static_cast<double>(cells.length) * side * ratio);
  out->picture_ = QImage(size.toSize(), QImage::Format_ARGB32_Premultiplied);
  out->picture_.setDevicePixelRatio(ratio);
  out->picture_.fill(Qt::transparent);
  QPainter p(&out->picture_);
  p.setRenderHint(QPainter::Antialiasing);
  QColor ink = QColor::fromRgb(acre::kPenInk);
  const auto pen = [&](double share, double width) {
    ink.setAlphaF(static_cast<float>(share));
    return QPen(ink, width, Qt::SolidLine, Qt::RoundCap);
  };
  const auto at = [&](int64_t i, int64_t j) {
    return things[static_cast<size_t>(j + 1) * stride + static_cast<size_t>(i + 1)];
  };
  const auto known = [&](acre::MaterialIndex m) { return m > 0 && m < signs.size(); };
  p.setPen(pen(kInkShare, std::clamp(side / 9, 0.9, 1.6)));
  for (int64_t j = 0; j < cells.length && !stop.stop_requested(); ++j)
    for (int64_t i = 0; i < cells.width; ++i) {
      const acre::MaterialIndex m = at(i, j);
      if (!known(m)) continue;
      const uint64_t hash = hashOfCell({cells.x + i, cells.z + j});
      if (static_cast<int>(hash & 63) >= ofSixtyFour(signs[m])) continue;
      draw(p, signs[m], QPointF(static_cast<double>(i) + 0.5, static_cast<double>(j) + 0.5) * side,
          side, hash);
    }
  // Where water ends at a side of a cell; wider the closer one looks.
  std::vector<QLineF> coast;
  const auto parts = [&](acre::MaterialIndex a, acre::MaterialIndex b) {
    return known(a) && known(b) && wet[a] != wet[b];
  };
  for (int64_t j = 0; j < cells.length; ++j)
    for (int64_t i = 0; i < cells.width; ++i) {
      const double x = static_cast<double>(i) * side, y = static_cast<double>(j) * side;
      if (parts(at(i, j), at(i - 1, j))) coast.emplace_back(x, y, x, y + side);
      if (parts(at(i, j), at(i, j - 1))) coast.emplace_back(x, y, x + side, y);
    }
  p.setPen(pen(kCoastShare, std::clamp(side / 7, 1.0, 2.5)));
  p.drawLines(coast.data(), static_cast<int>(coast.size()));
  return stop.stop_requested() ? nullptr : out;
}

void PenSigns::paint(QPainter& p, const MapGeometry& view) const {
  // Of another scale they would only be wrong.
  if (std::abs(view.cellsPerPixel / cellsPerPixel_ - 1) > 1e-9) return;
  const QPointF corner = view.toScreen({cells_.x, cells_.z});
  p.drawImage(QPointF(std::round(corner.x()), std::round(corner.y())), picture_);
}

}  // namespace app
