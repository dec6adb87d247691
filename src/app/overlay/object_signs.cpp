#include "app/overlay/object_signs.h"

#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "base/hash.h"
#include "climate/land_sampler.h"
#include "output/sign_stamps.h"
#include "world/world.h"

namespace app {
namespace {

constexpr double kCutSign = 4;  // Half of what a sign on the section is wide, in pixels.

}  // namespace

std::shared_ptr<const MapOverlay> ObjectSigns::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  if (!world.objects().any() || view.cellsPerPixel > kCoarsest) return nullptr;
  auto out = std::make_shared<ObjectSigns>();
  out->cells_ = view.cells();
  for (const acre::ObjectKind& kind : planOf(world).recipe().objects->kinds) {
    Sign sign{kind, QString::fromStdString(kind.name), {}};
    for (const acre::ObjectChoice& one : kind.what)
      sign.choices.push_back(QString::fromStdString(one.name));
    for (const acre::ObjectPiece& piece : planOf(world).recipe().objects->pieces)
      if (piece.id == kind.piece)
        sign.across = static_cast<int64_t>(piece.layers[0].rows[0].size());
    for (const acre::TreeStyle& style : planOf(world).recipe().objects->trees)
      if (style.id == kind.tree) sign.across = std::llround(2 * style.radius);
    out->signs_.push_back(std::move(sign));
  }
  auto found = world.objects().in(view.cells(), stop);
  if (!found) return nullptr;
  // Later kinds lie under earlier ones; of too many the later ones are left out.
  out->all_ = found->size();
  if (found->size() > kMost) found->resize(kMost);
  std::reverse(found->begin(), found->end());
  out->objects_ = std::move(*found);
  std::vector<acre::Cell> cells;
  for (const acre::PlacedObject& one : out->objects_) cells.push_back(one.cell);
  out->heights_ = planOf(world).parts().land->heightsOf(cells);
  for (size_t n = 0; n < cells.size(); ++n) {
    if (planOf(world).blocks()) out->heights_[n] = static_cast<float>(out->objects_[n].y);
    if (planOf(world).level()) out->heights_[n] = world.columns().heightAt(cells[n]);
  }
  out->madeFor_ = view;
  out->stamps_ = out->stampsFor(view, view.deviceRatio);
  for (const Sign& sign : out->signs_) out->cutStamps_.push_back(stampOf(sign, kCutSign));
  return out;
}

double ObjectSigns::sizeOf(const Sign& sign, const MapGeometry& view) {
  return acre::signSize(sign.kind, view.cellsPerPixel);
}

QString ObjectSigns::nameOf(const acre::PlacedObject& object) const {
  const Sign& sign = signs_[object.kind];
  return object.choice == acre::PlacedObject::kPlain ? sign.name : sign.choices[object.choice];
}

QImage ObjectSigns::stampOf(const Sign& sign, double size) {
  const acre::SignStamp made = acre::signStamp(sign.kind, size);
  const acre::Colour& ink = sign.kind.ink;
  QImage stamp(made.side, made.side, QImage::Format_ARGB32_Premultiplied);
  for (int j = 0; j < made.side; ++j)
    for (int i = 0; i < made.side; ++i)
      reinterpret_cast<QRgb*>(stamp.scanLine(j))[i] = qPremultiply(
          qRgba(ink.red, ink.green, ink.blue, made.cover[static_cast<size_t>(j * made.side + i)]));
  return stamp;
}

std::vector<QImage> ObjectSigns::stampsFor(const MapGeometry& view, double scale) const {
  std::vector<QImage> stamps;
  for (const Sign& sign : signs_) {
    QImage& stamp = stamps.emplace_back();
    constexpr double kSeen = 3;  // Pixels.
    if (static_cast<double>(sign.across) >= kSeen * view.cellsPerPixel) continue;
    stamp = stampOf(sign, sizeOf(sign, view) * scale);
    stamp.setDevicePixelRatio(scale);
  }
  return stamps;
}

void ObjectSigns::paint(QPainter& p, const MapGeometry& view) const {
  // Each sign was drawn once and is stamped; anew at another scale.
  const double scale = p.device()->devicePixelRatioF();
  const bool ready = view.cellsPerPixel == madeFor_.cellsPerPixel && scale == madeFor_.deviceRatio;
  const std::vector<QImage> stamps = ready ? stamps_ : stampsFor(view, scale);
  // Of kinds that stand closer than signs can be told apart a part is shown, spread evenly.
  constexpr double kApart = 4;  // Pixels.
  std::vector<double> shares;
  for (const Sign& sign : signs_) {
    const double apart = sign.kind.must ? kApart : sign.kind.distance / view.cellsPerPixel;
    shares.push_back(std::min(1.0, apart * apart / (kApart * kApart)));
  }
  const auto chosen = [&](const acre::PlacedObject& one, double share) {
    return !stamps[one.kind].isNull() &&
           static_cast<double>(acre::mix64(one.id) >> 48) < share * shares[one.kind] * 0x10000;
  };
  size_t all = all_ - objects_.size(), drawn = 0;
  for (const acre::PlacedObject& one : objects_) all += chosen(one, 1);
  const double share = std::min(
      1.0, static_cast<double>(kMostDrawn) / static_cast<double>(std::max(all, size_t{1})));
  for (const acre::PlacedObject& one : objects_) {
    if (!chosen(one, share)) continue;
    const QImage& stamp = stamps[one.kind];
    const double half = stamp.width() / scale / 2;
    p.drawImage(view.toScreen(one.cell, 0.5, 0.5) - QPointF(half, half), stamp);
    ++drawn;
  }
  if (all > drawn && view.cells() == cells_) tellLeftOut(p, 22, drawn, all);
}

void tellLeftOut(QPainter& p, double y, size_t shown, size_t all) {
  p.setFont(look::mapFont());
  look::drawHaloText(p, {12, y},
      QObject::tr("%1 of %2 signs: zoom in.")
          .arg(look::wholeNumber(static_cast<qint64>(shown)),
              look::wholeNumber(static_cast<qint64>(all))));
}

QString ObjectSigns::at(QPointF place, const MapGeometry& view) const {
  constexpr double kReach = 6;
  for (auto one = objects_.rbegin(); one != objects_.rend(); ++one)
    if ((view.toScreen(one->cell, 0.5, 0.5) - place).manhattanLength() <=
        std::max(kReach, sizeOf(signs_[one->kind], view)))
      return QObject::tr("%1 at x %2 z %3")
          .arg(nameOf(*one), look::wholeNumber(one->cell.x), look::wholeNumber(one->cell.z));
  return {};
}

template <class Visit>
void ObjectSigns::onCut(const CutGeometry& cut, Visit&& visit) const {
  for (size_t n = 0; n < objects_.size(); ++n) {
    const auto foot = cut.footOf(objects_[n].cell, 0.5, 0.5);
    if (std::abs(foot.aside) <= 1 && foot.along >= 0 && foot.along <= cut.length())
      visit(n, cut.toScreen(foot.along, static_cast<double>(heights_[n])) - QPointF(0, kCutSign));
  }
}

void ObjectSigns::paintCut(QPainter& p, const CutGeometry& cut) const {
  onCut(cut, [&](size_t n, QPointF at) {
    const QImage& stamp = cutStamps_[objects_[n].kind];
    p.drawImage(at - QPointF(stamp.width(), stamp.height()) / 2, stamp);
  });
}

QString ObjectSigns::atCut(QPointF place, const CutGeometry& cut) const {
  QString out;
  onCut(cut, [&](size_t n, QPointF at) {
    if ((at - place).manhattanLength() <= 2 * kCutSign) out = nameOf(objects_[n]);
  });
  return out;
}

QString ObjectSigns::spoken() const {
  return QObject::tr("%1 objects in view.").arg(look::wholeNumber(static_cast<qint64>(all_)));
}

}  // namespace app
