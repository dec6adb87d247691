#include "app/overlay/way_obstacles.h"

#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "water/water_stage.h"
#include "world/plan.h"

namespace app {
namespace {

constexpr int kShade = 96;  // Of 255, that obstacles cover the ground.

QString reason(const acre::CourseWay& way) {
  return QString::fromLatin1(acre::faultName(way.fault));
}

}  // namespace

std::shared_ptr<const MapOverlay> WayObstacles::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const acre::WaterStage* stage = planOf(world).water();
  if (!stage || !stage->ways()) return nullptr;
  auto out = std::make_shared<WayObstacles>();
  const auto places = stage->ways()->regionsIn(view.cells());
  out->tooMany_ = places.size() > kMost;
  if (out->tooMany_) return out;
  for (const acre::CourseWays::At at : places) {
    Region region{stage->ways()->region(at, stop), {}};
    if (!region.found) return nullptr;
    region.obstacles = QImage(region.found->wide, region.found->deep, QImage::Format_Indexed8);
    for (int z = 0; z < region.found->deep; ++z)
      std::copy_n(region.found->obstacles.data() + region.found->index(0, z), region.found->wide,
          region.obstacles.scanLine(z));
    out->regions_.push_back(std::move(region));
  }
  return out;
}

void WayObstacles::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setFont(look::mapFont());
  if (tooMany_)
    return look::drawHaloText(p, {12, 22}, QObject::tr("Ways through obstacles: zoom in."));
  p.setRenderHint(QPainter::Antialiasing);
  const QRgb shade = qRgba(t.ink.red(), t.ink.green(), t.ink.blue(), kShade);
  for (const Region& region : regions_) {
    const acre::CourseRegion& r = *region.found;
    QImage shown = region.obstacles;
    shown.setColorTable({qRgba(0, 0, 0, 0), shade});
    const QPointF from = view.toScreen({r.cells.x, r.cells.z});
    const QPointF to = view.toScreen({r.cells.x + r.wide * r.step, r.cells.z + r.deep * r.step});
    p.drawImage(QRectF(from, to), shown);
  }
  const auto place = [&](acre::Cell c) { return view.toScreen(c, 0.5, 0.5); };
  for (const bool halo : {true, false})
    eachWay([&](const acre::CourseWay& way) {
      p.setPen(QPen(halo ? t.sheet : t.ink, halo ? 4 : 1.5,
          way.found() || halo ? Qt::SolidLine : Qt::DashLine, Qt::RoundCap, Qt::RoundJoin));
      p.setBrush(Qt::NoBrush);
      QPolygonF line;
      if (way.found())
        for (const acre::Cell c : way.places) line << place(c);
      else
        line << place(way.from) << place(way.to);
      p.drawPolyline(line);
    });
  eachWay([&](const acre::CourseWay& way) {
    const QPointF from = place(way.from), to = place(way.to);
    p.setBrush(t.sheet);
    p.setPen(QPen(t.ink, 1.5));
    p.drawEllipse(from, 3.5, 3.5);
    p.drawRect(QRectF(to - QPointF(3, 3), QSizeF(6, 6)));
    if (!way.found())
      look::drawHaloText(p, from + QPointF(7, -5),
          QObject::tr("%1: %2").arg(QString::fromStdString(way.name), reason(way)));
  });
}

QString WayObstacles::at(QPointF place, const MapGeometry& view) const {
  QString out;
  eachWay([&](const acre::CourseWay& way) {
    const auto near = [&](acre::Cell c) {
      return (view.toScreen(c, 0.5, 0.5) - place).manhattanLength() <= 9;
    };
    if (!out.isEmpty() || (!near(way.from) && !near(way.to))) return;
    const QString ends = QObject::tr("Way %1 from x %2 z %3 to x %4 z %5")
                             .arg(QString::fromStdString(way.name), look::wholeNumber(way.from.x),
                                 look::wholeNumber(way.from.z), look::wholeNumber(way.to.x),
                                 look::wholeNumber(way.to.z));
    out = way.found() ? QObject::tr("%1\n%2 cells long, at most %3 deep%4")
                            .arg(ends, look::wholeNumber(std::llround(way.length)),
                                look::number(std::round(way.cut * 10) / 10),
                                way.joins ? QObject::tr(", joins an earlier one") : QString())
                      : QObject::tr("%1\ngiven up: %2").arg(ends, reason(way));
  });
  return out;
}

QString WayObstacles::spoken() const {
  if (tooMany_) return {};
  size_t all = 0, found = 0;
  eachWay([&](const acre::CourseWay& way) {
    ++all;
    found += way.found();
  });
  return QObject::tr("%1 of %2 ways through obstacles are found.").arg(found).arg(all);
}

}  // namespace app
