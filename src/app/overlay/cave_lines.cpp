#include "app/overlay/cave_lines.h"

#include <cmath>
#include <optional>

#include "app/look/look.h"

namespace app {
namespace {

QPointF siteOf(const acre::TunnelSystem& system, const MapGeometry& view) {
  return view.toScreen({system.x, system.z}, 0.5, 0.5);
}

}  // namespace

QPen cavePen(acre::PassageKind kind, const QColor& colour, double width) {
  QPen pen(colour, width, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
  if (kind == acre::PassageKind::Arm) pen.setDashPattern({5, 2.5});
  if (kind == acre::PassageKind::Own) pen.setDashPattern({1.5, 2});
  if (kind == acre::PassageKind::Shaft) pen.setDashPattern({5, 2, 1.5, 2});
  return pen;
}

void drawPassage(QPainter& p, acre::PassageKind kind, const QPolygonF& line, const QColor& casing,
    const QColor& ink, double width) {
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(casing, width + 2, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin));
  p.drawPolyline(line);
  p.setPen(cavePen(kind, ink, width));
  p.drawPolyline(line);
}

void CaveLines::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  const QPointF centre = view.toScreen(searchedFrom, 0.5, 0.5);
  const double far = static_cast<double>(within) / view.cellsPerPixel;
  if (far > 0 && far < 20'000) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.sheet, 3));
    p.drawEllipse(centre, far, far);
    p.setPen(QPen(t.ink, 1, Qt::DashLine));
    p.drawEllipse(centre, far, far);
  }
  for (size_t k = 0; k < systems.size(); ++k)
    paintSystem(p, systems[k], static_cast<int>(k) == chosen, view);
}

void CaveLines::paintSystem(
    QPainter& p, const System& one, bool isChosen, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  const acre::TunnelSystem& s = *one.system;
  const double scale = 1 / view.cellsPerPixel;
  const QPointF corner = view.toScreen({s.x, s.z});
  const auto reach = static_cast<double>(s.high[0] - s.low[0]) * scale;
  const double room = reach + 80;
  if (!QRectF(QPointF(), view.size).adjusted(-room, -room, room, room).contains(corner)) return;
  if (reach > 6)
    for (const acre::Passage& passage : s.passages) {
      if (passage.kind == acre::PassageKind::Shaft) continue;
      QPolygonF line;
      for (const acre::BorePoint& point : passage.points)
        line << corner +
                    QPointF(static_cast<double>(point.x), static_cast<double>(point.z)) * scale;
      drawPassage(p, passage.kind, line, t.sheet, t.ink, isChosen ? 2.25 : 1.25);
    }
  // The site: a ring where there is a mouth, a bar across where there is none.
  const QPointF at = siteOf(s, view);
  p.setBrush(t.sheet);
  p.setPen(QPen(t.ink, isChosen ? 2 : 1.25));
  p.drawEllipse(at, 4, 4);
  if (!s.mouth) p.drawLine(at - QPointF(3, 0), at + QPointF(3, 0));
  if (isChosen) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.sheet, 4));
    p.drawEllipse(at, 11, 11);
    p.setPen(QPen(t.madder, 2));
    p.drawEllipse(at, 11, 11);
  }
  if (!isChosen && reach <= 60) return;
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  look::drawHaloText(p, at + QPointF(14, -8), one.name);
}

/// Centre lines as they pass the cut, their places thrown onto it.
void CaveLines::paintCut(QPainter& p, const CutGeometry& cut) const {
  const look::Tokens& ink = look::tokens();
  if (cut.length() < 1) return;
  p.setRenderHint(QPainter::Antialiasing);
  for (size_t k = 0; k < systems.size(); ++k) {
    const acre::TunnelSystem& s = *systems[k].system;
    const double width = static_cast<int>(k) == chosen ? 2.25 : 1.25;
    std::optional<QPointF> label;
    for (const acre::Passage& passage : s.passages) {
      QPolygonF line;
      const auto draw = [&] {
        if (line.size() > 1) drawPassage(p, passage.kind, line, ink.sheet, ink.ink, width);
        if (!line.isEmpty() && !label) label = line.front();
        line.clear();
      };
      for (const acre::BorePoint& point : passage.points) {
        const auto [along, aside] =
            cut.footOf({s.x, s.z}, static_cast<double>(point.x), static_cast<double>(point.z));
        if (std::abs(aside) > kNearCut || along < 0 || along > cut.length()) {
          draw();
          continue;
        }
        line << cut.toScreen(along, static_cast<double>(s.y) + static_cast<double>(point.y));
      }
      draw();
    }
    if (!label) continue;
    p.setFont(look::mapFont());
    p.setPen(ink.ink);
    look::drawHaloText(p, *label + QPointF(8, -8), systems[k].name);
  }
}

QString CaveLines::at(QPointF place, const MapGeometry& view) const {
  for (const System& one : systems)
    if ((siteOf(*one.system, view) - place).manhattanLength() <= 9)
      return (one.system->mouth ? QObject::tr("%1, with a mouth: %2 passages")
                                : QObject::tr("%1, without a mouth: %2 passages"))
          .arg(one.name)
          .arg(one.system->passages.size());
  return {};
}

QString CaveLines::spoken() const {
  return QObject::tr("%1 cave systems are marked.").arg(systems.size());
}

}  // namespace app
