// The chunks over the ground of the map: a veil where none is loaded, their edges, and marks of
// those that are on their way.
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <map>

#include "app/look/look.h"
#include "app/map/map_view.h"

namespace app {

const MapView::ChunkScene& MapView::chunkScene() {
  if (scene_) return *scene_;
  scene_ = traverse_ ? ChunkScene{traverse_->layout, traverse_->places, {}}
                     : ChunkScene{planOf(*world_).layout(), stream_->places(), {}};
  // By place, each after the last: the map is built in one go.
  auto& held = scene_->held;
  if (!traverse_) {
    for (const auto& [pos, chunk] : held_) held.emplace_hint(held.end(), pos, chunk->rect);
    return *scene_;
  }
  for (const auto& place : scene_->places)
    if (place.state == acre::ChunkState::Held || place.state == acre::ChunkState::Leaving)
      held[place.pos] = acre::intersection(scene_->layout.rectOf(place.pos), traverse_->bounds);
  return *scene_;
}

/// Veils the chunks from `low` to `high` that are not held: by rectangles, or where chunks are only
/// some pixels large by a mask with one pixel a chunk.
void MapView::paintVeil(QPainter& p, const QColor& veil, const ChunkScene& scene, acre::Cell low,
    acre::Cell high, const QRect& box) const {
  const auto columns = static_cast<int>(high.x - low.x + 1);
  const auto rows = static_cast<int>(high.z - low.z + 1);
  QImage mask(columns, rows, QImage::Format_ARGB32_Premultiplied);
  mask.fill(veil);
  for (const auto& [pos, rect] : scene.held) {  // Coarse ones are worth several.
    const int64_t side = int64_t{1} << pos.detail;
    for (int64_t cz = std::max(pos.cz * side, low.z);
         cz < std::min((pos.cz + 1) * side, high.z + 1); ++cz)
      for (int64_t cx = std::max(pos.cx * side, low.x);
           cx < std::min((pos.cx + 1) * side, high.x + 1); ++cx)
        mask.setPixel(static_cast<int>(cx - low.x), static_cast<int>(cz - low.z), 0);
  }
  if (box.width() < 6 * columns) return p.drawImage(box, mask);
  const auto edge = [](int from, int size, int i, int count) {
    return from + static_cast<int>(std::llround(static_cast<double>(size) * i / count));
  };
  for (int j = 0; j < rows; ++j) {
    const auto* row = reinterpret_cast<const QRgb*>(mask.constScanLine(j));
    const int top = edge(box.top(), box.height(), j, rows);
    const int bottom = edge(box.top(), box.height(), j + 1, rows);
    for (int i = 0; i < columns;) {
      const int from = i;
      while (i < columns && row[i] == row[from]) ++i;
      if (row[from] == 0) continue;
      const int left = edge(box.left(), box.width(), from, columns);
      look::fillThin(
          p, {left, top, edge(box.left(), box.width(), i, columns) - left, bottom - top}, veil);
    }
  }
}

void MapView::paintChunks(QPainter& p) {
  if (!stream_) return;
  const look::Tokens& t = look::tokens();
  const ChunkScene& scene = chunkScene();
  const int64_t n = scene.layout.size();
  const double side = static_cast<double>(n) / geometry_.cellsPerPixel;
  if (scene.places.empty()) return;

  // Ground that is not loaded is drawn faint.
  int64_t x0 = INT64_MAX, z0 = INT64_MAX, x1 = INT64_MIN, z1 = INT64_MIN;
  for (const auto& place : scene.places) {
    const int64_t wide = int64_t{1} << place.pos.detail;
    x0 = std::min(x0, place.pos.cx * wide);
    x1 = std::max(x1, (place.pos.cx + 1) * wide - 1);
    z0 = std::min(z0, place.pos.cz * wide);
    z1 = std::max(z1, (place.pos.cz + 1) * wide - 1);
  }
  QColor veil = t.sheet;
  veil.setAlphaF(0.42f);
  const QPointF a = geometry_.toScreen({x0 * n, z0 * n});
  const QPointF b = geometry_.toScreen({(x1 + 1) * n, (z1 + 1) * n});
  const QRect box(
      QPoint(qRound(a.x()), qRound(a.y())), QPoint(qRound(b.x()) - 1, qRound(b.y()) - 1));
  const QRect view(QPoint(0, 0), geometry_.size.toSize());
  const QRect inner = box.intersected(view);
  if (inner.isEmpty()) {
    look::fillThin(p, view, veil);
    return;
  }
  for (const QRect& bare : QRegion(view) - inner) look::fillThin(p, bare, veil);
  paintVeil(p, veil, scene, {x0, z0}, {x1, z1}, box);
  if (side < 6) return;

  QColor line = t.ink;
  line.setAlphaF(0.35f);
  // Edges that follow each other are one line; those of two neighbours are drawn once.
  std::map<int64_t, std::vector<std::pair<int64_t, int64_t>>> across, down;
  const acre::Rect visible = geometry_.cells();
  for (const auto& [pos, part] :
      scene.held) {  // At the rim of a bounded world less than a whole chunk.
    if (acre::intersection(part, visible).empty()) continue;
    for (const int64_t z : {part.z, part.z + part.length})
      across[z].push_back({part.x, part.x + part.width});
    for (const int64_t x : {part.x, part.x + part.width})
      down[x].push_back({part.z, part.z + part.length});
  }
  for (auto* edges : {&across, &down}) {
    for (auto& [at, spans] : *edges) {
      std::sort(spans.begin(), spans.end());
      for (size_t i = 0; i < spans.size();) {
        auto [from, to] = spans[i];
        for (++i; i < spans.size() && spans[i].first <= to; ++i) to = std::max(to, spans[i].second);
        const bool alongX = edges == &across;
        const QPointF a1 = alongX ? geometry_.toScreen({from, at}) : geometry_.toScreen({at, from});
        const QPointF b1 = alongX ? geometry_.toScreen({to, at}) : geometry_.toScreen({at, to});
        // Rectangles a pixel wide: lines would be drawn pixel by pixel.
        const QRect edge(
            QPoint(qRound(a1.x()), qRound(a1.y())), QPoint(qRound(b1.x()), qRound(b1.y())));
        look::fillThin(p, edge & view, line);
      }
    }
  }
  paintUnloaded(p, scene, visible);
}

/// Marks of the chunks that are not there, or not for long: corners while wanted, a stroke while in
/// work, a full square when ready, a dotted rim when leaving, a cross when failed. All marks of a
/// kind are one call: there may be thousands.
void MapView::paintUnloaded(QPainter& p, const ChunkScene& scene, const acre::Rect& visible) {
  const look::Tokens& t = look::tokens();
  QVector<QRect> corners;
  QVector<QLineF> strokes, crosses;
  QVector<QRectF> rims, squares;
  std::vector<QPointF> names;
  for (const auto& place : scene.places) {
    const acre::Rect ground = scene.layout.rectOf(place.pos);
    if (place.state == acre::ChunkState::Held || acre::intersection(ground, visible).empty())
      continue;
    const double side = static_cast<double>(ground.width) / geometry_.cellsPerPixel;
    const int tick = std::max(1, static_cast<int>(std::min(4.0, side / 4)) + 1);
    const QPointF c = geometry_.toScreen({ground.x, ground.z});
    const QRectF r(c.x() + 1, c.y() + 1, side - 2, side - 2);
    if (place.state == acre::ChunkState::Failed) {
      crosses << QLineF(r.topLeft(), r.bottomRight()) << QLineF(r.topRight(), r.bottomLeft());
      if (side >= 40) names.push_back(r.center() - QPointF(14, -4));
    } else if (place.state == acre::ChunkState::Wanted) {
      const int left = qRound(r.left()), right = qRound(r.right());
      const int top = qRound(r.top()), bottom = qRound(r.bottom());
      for (const int z : {top, bottom})
        for (const int x : {left, right - tick + 1}) corners << QRect(x, z, tick, 1);
      for (const int x : {left, right})
        for (const int z : {top, bottom - tick + 1}) corners << QRect(x, z, 1, tick);
    } else if (place.state == acre::ChunkState::Leaving) {
      rims << r;
    } else if (place.state == acre::ChunkState::Ready) {
      squares << QRectF(r.center().x() - side / 8, r.center().y() - side / 8, side / 4, side / 4);
    } else {
      strokes << QLineF(r.left() + side / 4, r.center().y(), r.right() - side / 4, r.center().y());
    }
  }
  const auto draw = [&](const QVector<QLineF>& lines, const QPen& pen) {
    p.setPen(pen);
    p.drawLines(lines);
  };
  p.setPen(Qt::NoPen);
  p.setBrush(t.ink);
  p.drawRects(corners);
  p.setBrush(Qt::NoBrush);
  draw(strokes, QPen(t.verdigris, 1.5));
  draw(crosses, QPen(t.ink, 1.5));
  p.setPen(Qt::NoPen);
  p.setBrush(t.verdigris);
  p.drawRects(squares);
  p.setBrush(Qt::NoBrush);
  if (traverse_) {  // At rest the margin is nobody's concern.
    p.setPen(QPen(t.ink, 1, Qt::DotLine));
    p.drawRects(rims);
  }
  p.setFont(look::font(look::Type::Caption));
  for (const QPointF& at : names) look::drawHaloText(p, at, tr("failed"));
}

}  // namespace app
