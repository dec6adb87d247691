// Cave systems in the walk view: their centre lines, and following one.
#include <QPainter>
#include <cmath>
#include <numbers>

#include "app/overlay/cave_lines.h"
#include "app/look/look.h"
#include "app/walk/walk_view.h"

namespace app {
namespace {

struct Along {
  double x, y, z;  ///< From the lower corner of the site's cell.
  bool end;
};

/// The place so many cells along a passage.
Along placeAt(const acre::Passage& passage, double cells) {
  const auto& points = passage.points;
  for (size_t k = 0; k + 1 < points.size(); ++k) {
    const auto of = [](float a, float b) {
      return static_cast<double>(b) - static_cast<double>(a);
    };
    const double dx = of(points[k].x, points[k + 1].x), dy = of(points[k].y, points[k + 1].y),
                 dz = of(points[k].z, points[k + 1].z);
    const double length = std::sqrt(dx * dx + dy * dy + dz * dz);
    if (cells < length) {
      const double t = cells / length;
      return {static_cast<double>(points[k].x) + dx * t, static_cast<double>(points[k].y) + dy * t,
          static_cast<double>(points[k].z) + dz * t, false};
    }
    cells -= length;
  }
  return {static_cast<double>(points.back().x), static_cast<double>(points.back().y),
      static_cast<double>(points.back().z), true};
}

}  // namespace

void WalkView::enter(acre::TunnelStage::Handle system, bool along) {
  ++landRequest_;
  landing_ = false;
  placed_ = true;
  setFlying(true);
  walker_.flying = true;
  followed_ = std::move(system);
  alongLine_ = 0;
  placeOnLine();
  if (!along) followed_.reset();
  wake();
}

void WalkView::placeOnLine() {
  constexpr double kAhead = 4;
  const acre::TunnelSystem& s = *followed_;
  const acre::Passage& main = s.passages.front();
  const Along here = placeAt(main, alongLine_), next = placeAt(main, alongLine_ + kAhead);
  acre::Eye& eye = walker_.eye;
  eye.cellX = s.x;
  eye.cellZ = s.z;
  eye.x = eye.z = 0;
  eye.y = static_cast<double>(s.y) + here.y;
  eye.move(here.x, 0, here.z);
  const double dx = next.x - here.x, dy = next.y - here.y, dz = next.z - here.z;
  const double flat = std::sqrt(dx * dx + dz * dz);
  if (flat + std::abs(dy) > 1e-6) {
    const double turn = 180 / std::numbers::pi;
    const double yaw = std::atan2(dx, -dz) * turn;
    eye.yaw = yaw < 0 ? yaw + 360 : yaw;
    eye.pitch = std::atan2(dy, flat) * turn;
  }
  followEye();
  if (here.end) followed_.reset();
}

void WalkView::setCaves(std::shared_ptr<const CaveLines> caves) {
  caves_ = std::move(caves);
  repaintPicture();
}

void WalkView::paintCaves(QPainter& p) const {
  if (!caves_) return;
  const look::Tokens& ink = look::tokens();
  const acre::Eye& eye = walker_.eye;
  constexpr double kFarthest = 400, kPiece = 2;
  for (size_t k = 0; k < caves_->systems.size(); ++k) {
    const acre::TunnelSystem& s = *caves_->systems[k].system;
    const double x = static_cast<double>(s.x - eye.cellX) - eye.x;
    const double y = static_cast<double>(s.y) - eye.y;
    const double z = static_cast<double>(s.z - eye.cellZ) - eye.z;
    if (x * x + z * z > kFarthest * kFarthest) continue;
    const bool chosen = static_cast<int>(k) == caves_->chosen;
    std::optional<QPointF> label;
    for (const acre::Passage& passage : s.passages) {
      QPolygonF line;
      const auto draw = [&] {
        if (line.size() > 1) drawPassage(p, passage.kind, line, ink.sheet, ink.ink, chosen ? 2 : 1);
        line.clear();
      };
      // In short pieces, so that what lies behind the eye is left out cleanly.
      bool end = false;
      for (double at = 0; !end; at += kPiece) {
        const Along here = placeAt(passage, at);
        end = here.end;
        bool behind = false;
        const QPointF seen = project(x + here.x, y + here.y, z + here.z, behind);
        if (behind) {
          draw();
          continue;
        }
        line << seen;
        if (!label && passage.kind == acre::PassageKind::Main && rect().contains(seen.toPoint()))
          label = seen;
      }
      draw();
    }
    if (!label) continue;
    p.setFont(look::mapFont());
    p.setPen(ink.ink);
    look::drawHaloText(p, *label + QPointF(8, -8), caves_->systems[k].name);
  }
}

}  // namespace app
