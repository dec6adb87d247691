#include "app/overlay/refused_places.h"

#include <algorithm>
#include <numeric>

#include "app/look/look.h"
#include "app/overlay/object_signs.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace app {
namespace {

QString wordsOf(acre::Refusal refusal) {
  return QString::fromUtf8(acre::refusalName(refusal));
}

}  // namespace

QColor RefusedPlaces::inkOf(acre::Refusal refusal) {
  static constexpr QRgb kInks[acre::kRefusals] = {0, 0xFF444444, 0xFF5A5148, 0xFF8C4A2F, 0xFFB07A2A,
      0xFF3E7A4E, 0xFF2B6CA3, 0xFF6B5A94, 0xFF3FA3A8, 0xFF2F6F62, 0xFF5E8F2E, 0xFFA03C7A,
      0xFFC06AA0, 0xFF4C5C8C, 0xFF7A7A32, 0xFFBA3A32, 0xFFD98250, 0xFF8A8F96};
  return QColor::fromRgb(kInks[static_cast<size_t>(refusal)]);
}

std::shared_ptr<const MapOverlay> RefusedPlaces::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  if (!world.objects().any() || view.cellsPerPixel > kCoarsest) return nullptr;
  auto out = std::make_shared<RefusedPlaces>();
  const auto& kinds = planOf(world).recipe().objects->kinds;
  for (size_t k = 0; k < kinds.size(); ++k) {
    out->names_.push_back(QString::fromStdString(kinds[k].name));
    const auto add = [&](const acre::Judged& one) {
      if (one.refusal == acre::Refusal::None) return;
      ++out->counts_[static_cast<size_t>(one.refusal)];
      if (out->places_.size() < kMost) out->places_.push_back({one.at.cell, k, one.refusal});
    };
    if (!world.objects().judged(k, view.cells(), add, stop)) return nullptr;
  }
  return out;
}

void RefusedPlaces::paint(QPainter& p, const MapGeometry& view) const {
  constexpr double kArm = 2.2, kLine = 17;
  p.setRenderHint(QPainter::Antialiasing);
  for (const Place& one : places_) {
    const QPointF at = view.toScreen(one.cell, 0.5, 0.5);
    p.setPen(QPen(inkOf(one.refusal), 1.2));
    p.drawLine(at - QPointF(kArm, kArm), at + QPointF(kArm, kArm));
    p.drawLine(at - QPointF(kArm, -kArm), at + QPointF(kArm, -kArm));
  }
  // The legend, with the commonest reason first.
  std::vector<size_t> order;
  for (size_t n = 1; n < acre::kRefusals; ++n)
    if (counts_[n] > 0) order.push_back(n);
  std::stable_sort(
      order.begin(), order.end(), [&](size_t a, size_t b) { return counts_[a] > counts_[b]; });
  p.setFont(look::mapFont());
  double y = 44;
  for (const size_t n : order) {
    const auto refusal = static_cast<acre::Refusal>(n);
    p.setPen(Qt::NoPen);
    p.setBrush(inkOf(refusal));
    p.drawRect(QRectF(12, y - 9, 9, 9));
    p.setPen(look::tokens().ink);
    look::drawHaloText(p, {27, y},
        QObject::tr("%1  %2").arg(
            wordsOf(refusal), look::wholeNumber(static_cast<qint64>(counts_[n]))));
    y += kLine;
  }
  if (const size_t all = sum(); all > places_.size()) tellLeftOut(p, y, places_.size(), all);
}

size_t RefusedPlaces::sum() const {
  return std::accumulate(counts_.begin(), counts_.end(), size_t{0});
}

QString RefusedPlaces::at(QPointF place, const MapGeometry& view) const {
  constexpr double kReach = 4;
  for (const Place& one : places_)
    if ((view.toScreen(one.cell, 0.5, 0.5) - place).manhattanLength() <= kReach)
      return QObject::tr("no %1: %2").arg(names_[one.kind], wordsOf(one.refusal));
  return {};
}

QString RefusedPlaces::spoken() const {
  return QObject::tr("%1 places refused in view.")
      .arg(look::wholeNumber(static_cast<qint64>(sum())));
}

}  // namespace app
