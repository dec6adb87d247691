// Lines of the map: contours, the section line A-B, the plumb lines.
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/look/look.h"
#include "app/map/map_view.h"
#include "output/contours.h"
#include "world/world.h"

namespace app {

// ---- contours ----------------------------------------------------------------------------------

void MapView::setContours(double interval) {
  contoursByZoom_ = interval < 0;
  contourInterval_ = std::max(0.0, interval);
  if (interval == 0) contours_.clear();
  contourPause_.start();
  update();
}

void MapView::requestContours() {
  contourStop_.request_stop();
  contourStop_ = {};
  ++contourRequest_;
  if ((contourInterval_ <= 0 && !contoursByZoom_) || !world_ || geometry_.size.isEmpty()) return;
  const int64_t step = int64_t{1} << geometry_.level();
  const acre::Rect cells = geometry_.cells();
  const int64_t x = acre::floorDiv(cells.x, step) * step, z = acre::floorDiv(cells.z, step) * step;
  const acre::SampleGrid grid{x, z, step, static_cast<int32_t>(cells.width / step + 3),
      static_cast<int32_t>(cells.length / step + 3)};
  engine_.executor().submit(acre::Priority::SharpMap, contourStop_.get_token(),
      [courier = courier_, world = world_, picture = picture_, grid, fixed = contourInterval_,
          byZoom = contoursByZoom_ ? scale_ : nullptr, cells = geometry_.cellsPerPixel,
          request = contourRequest_, stop = contourStop_.get_token()] {
        const double interval = byZoom ? byZoom->contourInterval(cells) : fixed;
        if (!(interval > 0))  // Nothing rises: the lines of the world before go.
          return courier->deliver([request](MapView& self) {
            if (request != self.contourRequest_) return;
            self.contourInterval_ = 0;
            self.contours_.clear();
            self.update();
          });
        std::vector<float> values(
            static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
        const acre::Field* field =
            picture.kind == acre::PictureKind::Field ? world->field(picture.field) : nullptr;
        const acre::Status made = field ? world->columns().field(*field, grid, values.data(), stop)
                                        : world->sample(grid, values.data(), nullptr, stop);
        if (!made) return;
        std::vector<DrawnContour> drawn;
        const auto scale = static_cast<double>(grid.step);
        for (const acre::ContourLine& line :
            acre::contours(values.data(), grid.width, grid.length, grid.width, interval)) {
          DrawnContour out{line.level, std::llround(line.level / interval) % 5 == 0, {}};
          for (const acre::ContourPoint& p : line.points)
            out.points.append({p.x * scale + 0.5, p.z * scale + 0.5});
          drawn.push_back(std::move(out));
        }
        courier->deliver([request, drawn = std::move(drawn), grid, interval](MapView& self) {
          if (request != self.contourRequest_) return;
          self.contourInterval_ = interval;
          self.contours_ = drawn;
          self.contourOrigin_ = {grid.x, grid.z};
          self.update();
        });
      });
}

void MapView::paintContours(QPainter& p) {
  if (contours_.empty()) return;
  const QPointF origin = geometry_.toScreen(contourOrigin_);
  const double scale = 1 / geometry_.cellsPerPixel;
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  QColor ink = QColor::fromRgb(acre::kHatchInk);
  ink.setAlphaF(0.62F);
  const QTransform place =
      QTransform::fromScale(scale, scale) * QTransform::fromTranslate(origin.x(), origin.y());
  for (const DrawnContour& line : contours_) {
    p.setPen(QPen(ink, line.label ? 1.25 : 0.75));
    p.drawPolyline(place.map(line.points));
  }
  p.setFont(look::mapFont());
  std::vector<QRectF> taken;
  for (const DrawnContour& line : contours_) {
    if (!line.label || line.points.size() < 30) continue;
    const QString text = look::number(line.level);
    const QPointF at = place.map(line.points[line.points.size() / 2]);
    const QSizeF size(p.fontMetrics().horizontalAdvance(text) + 6, p.fontMetrics().height());
    const QRectF box(at - QPointF(size.width() / 2, size.height() / 2), size);
    if (!QRectF(QPointF(), geometry_.size).contains(box) ||
        std::any_of(taken.begin(), taken.end(), [&](const QRectF& r) { return r.intersects(box); }))
      continue;
    taken.push_back(box.adjusted(-30, -20, 30, 20));
    look::drawHaloText(p, QPointF(box.left() + 3, box.bottom() - p.fontMetrics().descent()), text);
  }
  p.restore();
}

// ---- the section line --------------------------------------------------------------------------

void MapView::followLine() {
  if (linePlaced_) return;
  Place left = geometry_.toWorld({0, geometry_.size.height() / 2});
  Place right = geometry_.toWorld({geometry_.size.width(), geometry_.size.height() / 2});
  const QPointF seen = geometry_.toScreen(viewpoint_.cell, viewpoint_.fx, viewpoint_.fz);
  if (QRectF(QPointF(), geometry_.size).contains(seen)) {
    left.cell.z = right.cell.z = viewpoint_.cell.z;
    left.fz = right.fz = viewpoint_.fz;
  }
  line_ = {left, right};
  emit sectionChanged();
}

void MapView::setLineShown(bool shown) {
  lineShown_ = shown;
  update();
}

void MapView::resetLine() {
  linePlaced_ = false;
  followLine();
  update();
}

/// In pixels of the picture.
QPointF MapView::onLine(double at) const {
  const QPointF a = geometry_.toScreen(line_.a.cell, line_.a.fx, line_.a.fz);
  const QPointF b = geometry_.toScreen(line_.b.cell, line_.b.fx, line_.b.fz);
  return a + (b - a) * at;
}

void MapView::setLineHair(double at) {
  const double before = std::exchange(lineHair_, at);
  for (const double each : {before, at}) {
    if (each < 0) continue;
    const QPointF p = onLine(each) + pictureRect().topLeft();
    update(QRectF(p.x() - 9, p.y() - 9, 18, 18).toAlignedRect());
  }
}

double MapView::alongLine(acre::Cell cell) const {
  const QPointF a = geometry_.toScreen(line_.a.cell, line_.a.fx, line_.a.fz);
  const QPointF way = geometry_.toScreen(line_.b.cell, line_.b.fx, line_.b.fz) - a;
  const QPointF to = geometry_.toScreen(cell, 0.5, 0.5) - a;
  const double length = QPointF::dotProduct(way, way);
  if (!(length > 0)) return -1;
  const double t = QPointF::dotProduct(to, way) / length;
  return t >= 0 && t <= 1 ? t : -1;
}

QPointF MapView::lineEnd(bool b) const {
  const Place& end = b ? line_.b : line_.a;
  const QPointF inset = linePlaced_ ? QPointF() : QPointF(b ? -14 : 14, 0);
  return geometry_.toScreen(end.cell, end.fx, end.fz) + inset + pictureRect().topLeft();
}

void MapView::paintLine(QPainter& p) {
  const look::Tokens& t = look::tokens();
  const QPointF shift = pictureRect().topLeft();
  const QPointF a = lineEnd(false) - shift, b = lineEnd(true) - shift;
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  for (const QPen& pen : {QPen(t.sheet, 3.5), QPen(t.ink, 1.25, Qt::CustomDashLine)}) {
    QPen dashed = pen;
    if (pen.style() == Qt::CustomDashLine) dashed.setDashPattern({12, 4, 2, 4});
    p.setPen(dashed);
    p.drawLine(a, b);
  }
  p.setFont(look::mapFont());
  const auto end = [&](QPointF at, const QString& letter, double side) {
    p.setPen(QPen(t.sheet, 5));
    p.drawLine(at - QPointF(0, 7), at + QPointF(0, 7));
    p.setPen(QPen(t.ink, 2.5));
    p.drawLine(at - QPointF(0, 6), at + QPointF(0, 6));
    look::drawHaloText(p, at + QPointF(side > 0 ? 5 : -14, -9), letter);
  };
  end(a, QStringLiteral("A"), 1);
  end(b, QStringLiteral("B"), -1);
  if (lineHair_ >= 0) {
    const QPointF at = onLine(lineHair_);
    p.setPen(QPen(t.sheet, 3.5));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(at, 6, 6);
    p.setPen(QPen(t.ink, 1.5));
    p.drawEllipse(at, 6, 6);
  }
  p.restore();
}

// ---- plumb lines -------------------------------------------------------------------------------

void MapView::setPlumbs(std::optional<acre::Cell> first, std::optional<acre::Cell> second) {
  if (plumbs_[0] == first && plumbs_[1] == second) return;
  plumbs_[0] = first;
  plumbs_[1] = second;
  update();
}

QPoint MapView::cardPlace(QSize card) const {
  const QRect r = pictureRect();
  double x = r.width() / 2.0;
  if (plumbs_[0]) x = geometry_.toScreen(*plumbs_[0], 0.5, 0.5).x();
  const bool right = x < r.width() / 2.0;
  return {right ? r.right() - card.width() - 10 : r.left() + 10, r.top() + 10};
}

void MapView::paintPlumbs(QPainter& p) {
  const look::Tokens& t = look::tokens();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  for (int i = 0; i < 2; ++i) {
    if (!plumbs_[i]) continue;
    const QPointF at = geometry_.toScreen(*plumbs_[i], 0.5, 0.5);
    const double side = std::max(6.0, 1 / geometry_.cellsPerPixel);
    const QRectF cell(at - QPointF(side / 2, side / 2), QSizeF(side, side));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.sheet, 3.5));
    p.drawRect(cell);
    p.setPen(QPen(t.ink, 1.5, i == 0 ? Qt::SolidLine : Qt::DotLine));
    p.drawRect(cell);
    if (i > 0) continue;
    // The leader to the card.
    const bool right = at.x() < geometry_.size.width() / 2;
    const QPointF card(right ? geometry_.size.width() - 294 : 294, 40);
    p.setPen(QPen(t.sheet, 3));
    p.drawLine(right ? cell.topRight() : cell.topLeft(), card);
    p.setPen(QPen(t.ink, 1));
    p.drawLine(right ? cell.topRight() : cell.topLeft(), card);
  }
  if (cursor_ && hasFocus()) {
    const QPointF at = geometry_.toScreen(*cursor_, 0.5, 0.5);
    p.setPen(QPen(t.sheet, 3.5));
    for (int pass = 0; pass < 2; ++pass) {
      p.drawLine(at - QPointF(9, 0), at + QPointF(9, 0));
      p.drawLine(at - QPointF(0, 9), at + QPointF(0, 9));
      p.setPen(QPen(t.ink, 1.5));
    }
  }
  p.restore();
}

}  // namespace app
