#include "app/overlay/overlay.h"

#include <QStringList>

namespace app {

void Overlays::set(Over place, std::shared_ptr<const MapOverlay> overlay) {
  auto& now = list_[static_cast<size_t>(place)];
  if (now == overlay) return;
  now = std::move(overlay);
  emit changed();
}

bool Overlays::hidden(size_t place) const {
  return place == static_cast<size_t>(Over::Places) && has(Over::Spaces);
}

void Overlays::paintGround(QPainter& p, const MapGeometry& view) const {
  for (const Over place : {Over::PenSigns, Over::Tiles}) {
    if (!has(place)) continue;
    p.save();
    get(place)->paint(p, view);
    p.restore();
  }
}

void Overlays::paint(QPainter& p, const MapGeometry& view) const {
  for (size_t k = static_cast<size_t>(Over::Tiles) + 1; k < kOverCount; ++k) {
    if (!list_[k] || hidden(k)) continue;
    p.save();
    list_[k]->paint(p, view);
    p.restore();
  }
}

void Overlays::paintCut(QPainter& p, const CutGeometry& cut) const {
  for (const auto& overlay : list_) {
    if (!overlay) continue;
    p.save();
    overlay->paintCut(p, cut);
    p.restore();
  }
}

template <class Ask>
QString Overlays::first(Ask&& ask) const {
  for (size_t k = kOverCount; k-- > 0;) {
    if (!list_[k] || hidden(k)) continue;
    if (const QString words = ask(*list_[k]); !words.isEmpty()) return words;
  }
  return {};
}

QString Overlays::at(QPointF place, const MapGeometry& view) const {
  return first([&](const MapOverlay& one) { return one.at(place, view); });
}

QString Overlays::atCut(QPointF place, const CutGeometry& cut) const {
  return first([&](const MapOverlay& one) { return one.atCut(place, cut); });
}

QString Overlays::spoken() const {
  QStringList words;
  for (size_t k = 0; k < kOverCount; ++k)
    if (list_[k] && !hidden(k))
      if (const QString said = list_[k]->spoken(); !said.isEmpty()) words << said;
  return words.join(QLatin1Char(' '));
}

}  // namespace app

#include "moc_overlay.cpp"
