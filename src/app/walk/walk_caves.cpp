// Lines in the walk view: those of cave systems, and following one, or a river.
#include <QPainter>
#include <array>
#include <cmath>
#include <numbers>

#include "app/look/look.h"
#include "app/overlay/cave_lines.h"
#include "app/walk/walk_view.h"

namespace app {
namespace {

struct Along {
  double x, y, z;
  bool end;
};

using Line = std::vector<std::array<double, 3>>;

Line lineOf(const acre::Passage& passage) {
  Line out;
  for (const auto& p : passage.points)
    out.push_back({static_cast<double>(p.x), static_cast<double>(p.y), static_cast<double>(p.z)});
  return out;
}

/// The place so many cells along a line.
Along placeAt(const Line& points, double cells) {
  for (size_t k = 0; k + 1 < points.size(); ++k) {
    const auto &a = points[k], &b = points[k + 1];
    const double dx = b[0] - a[0], dy = b[1] - a[1], dz = b[2] - a[2];
    const double length = std::sqrt(dx * dx + dy * dy + dz * dz);
    if (cells < length) {
      const double t = cells / length;
      return {a[0] + dx * t, a[1] + dy * t, a[2] + dz * t, false};
    }
    cells -= length;
  }
  return {points.back()[0], points.back()[1], points.back()[2], true};
}

}  // namespace

void WalkView::enter(acre::TunnelStage::Handle system, bool along) {
  constexpr double kSpeed = 7;  // Cells a second.
  Track track{{system->x, system->z}, kSpeed, lineOf(system->passages.front())};
  for (auto& p : track.points) p[1] += static_cast<double>(system->y);
  setOut(std::move(track), along);
}

void WalkView::follow(const acre::RiverProfile& river) {
  constexpr double kSpeed = 14, kAbove = 4;
  const acre::Cell from = river.points.front().cell;
  Track track{from, kSpeed, {}};
  for (const acre::ProfilePoint& p : river.points)
    track.points.push_back({static_cast<double>(p.cell.x - from.x) + 0.5,
        std::max(p.level, static_cast<double>(p.bed)) + kAbove,
        static_cast<double>(p.cell.z - from.z) + 0.5});
  setOut(std::move(track), true);
}

void WalkView::setOut(Track track, bool along) {
  ++landRequest_;
  landing_ = false;
  placed_ = true;
  setFlying(true);
  walker_.flying = true;
  followed_ = std::make_shared<const Track>(std::move(track));
  alongLine_ = 0;
  placeOnLine();
  if (!along) followed_.reset();
  wake();
}

void WalkView::placeOnLine() {
  constexpr double kAhead = 4;
  const auto track = followed_;
  const Along here = placeAt(track->points, alongLine_),
              next = placeAt(track->points, alongLine_ + kAhead);
  acre::Eye& eye = walker_.eye;
  eye.cellX = track->from.x;
  eye.cellZ = track->from.z;
  eye.x = eye.z = 0;
  eye.y = here.y;
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
      const Line points = lineOf(passage);
      QPolygonF line;
      const auto draw = [&] {
        if (line.size() > 1) drawPassage(p, passage.kind, line, ink.sheet, ink.ink, chosen ? 2 : 1);
        line.clear();
      };
      // In short pieces, so that what lies behind the eye is left out cleanly.
      bool end = false;
      for (double at = 0; !end; at += kPiece) {
        const Along here = placeAt(points, at);
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
