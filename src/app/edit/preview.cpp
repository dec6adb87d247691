#include "app/edit/preview.h"

#include <QBuffer>
#include <QCursor>
#include <QEvent>
#include <QPainter>
#include <QPointer>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "app/map/painted.h"
#include "app/overlay/cave_lines.h"
#include "cave/caves.h"
#include "output/section.h"
#include "recipe/cave_recipe.h"
#include "world/world.h"

namespace app {
namespace {

QString inlinePicture(const QImage& image) {
  if (image.isNull()) return QObject::tr("not possible");
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  image.save(&buffer, "PNG");
  return QStringLiteral("<img src=\"data:image/png;base64,%1\">")
      .arg(QString::fromLatin1(bytes.toBase64()));
}

QImage blank() {
  QImage image(kSmallPicture, QImage::Format_RGB32);
  image.fill(QColor::fromRgb(acre::kPaperColour));
  return image;
}

int64_t stepOf(const MapGeometry& view) {
  return std::max<int64_t>(
      1, std::llround(view.size.width() * view.cellsPerPixel / kSmallPicture.width()));
}

}  // namespace

QImage fromAbove(
    const acre::World& world, const acre::Picture& picture, const MapGeometry& view, bool near) {
  const int32_t width = kSmallPicture.width(), height = kSmallPicture.height();
  const int64_t step =
      near ? std::min<int64_t>(stepOf(view), acre::CaveStage::kExactStep) : stepOf(view);
  const acre::SampleGrid grid{view.centre.cell.x - step * width / 2,
      view.centre.cell.z - step * height / 2, step, width, height};
  QImage image = paintedMap(world, picture, grid);
  if (image.isNull()) image = blank();
  return image;
}

QImage alongCut(const acre::World& world, const MapGeometry& view) {
  acre::SectionRequest r;
  r.width = kSmallPicture.width();
  r.height = kSmallPicture.height();
  const acre::Cell middle = view.centre.cell;
  r.from = {middle.x - r.width / 2, middle.z};
  r.to = {middle.x + r.width / 2, middle.z};
  // Most of it below the ground, which is what such numbers are about.
  const double ground = std::floor(static_cast<double>(world.columns().heightAt(middle)));
  r.high = ground + r.height / 4.0;
  r.low = r.high - r.height;
  QImage image = blank();
  const auto cut = acre::sampleSection(world, r);
  if (!cut) return image;
  acre::SectionStyle style;
  style.paper = acre::kPaperColour;
  style.chunks = style.depths = style.patterns = false;  // Too small for them.
  const std::vector<uint32_t> pixels = acre::paintSection(world, *cut, style);
  for (int y = 0; y < r.height; ++y)
    std::copy_n(pixels.data() + ptrdiff_t{y} * r.width, r.width,
        reinterpret_cast<uint32_t*>(image.scanLine(y)));
  return image;
}

namespace {

const acre::TunnelStage* tunnelsOf(const acre::World& world, const std::string& id) {
  const acre::CaveStage* caves = planOf(world).caves();
  const auto& list = planOf(world).recipe().caves->tunnels;
  for (size_t k = 0; caves && k < caves->tunnels().size(); ++k)
    if (list[static_cast<size_t>(caves->tunnels()[k].index)].id == id)
      return caves->tunnels()[k].stage.get();
  return nullptr;
}

bool samePassages(const acre::TunnelHandle& a, const acre::TunnelHandle& b) {
  if (!a || !b) return !a && !b;
  return std::equal(a->passages.begin(), a->passages.end(), b->passages.begin(), b->passages.end(),
      [](const acre::Passage& p, const acre::Passage& q) {
        return std::equal(p.points.begin(), p.points.end(), q.points.begin(), q.points.end(),
            [](const acre::BorePoint& u, const acre::BorePoint& v) {
              return u.x == v.x && u.y == v.y && u.z == v.z && u.radius == v.radius;
            });
      });
}

/// What all passages of two systems take, about the first one's site, in cells.
QRectF boxOf(const acre::TunnelHandle& one, const acre::TunnelHandle& other) {
  QRectF box(-4, -4, 8, 8);
  for (const acre::TunnelHandle& s : {one, other})
    for (const acre::Passage& passage : s ? s->passages : std::vector<acre::Passage>())
      for (const acre::BorePoint& p : passage.points) {
        const double x = static_cast<double>(p.x) + static_cast<double>(one ? s->x - one->x : 0);
        const double z = static_cast<double>(p.z) + static_cast<double>(one ? s->z - one->z : 0);
        box = box.united(QRectF(x - 4, z - 4, 8, 8));
      }
  return box;
}

/// box: what the picture shows, about the site of `about`.
QImage drawnSystem(
    const acre::TunnelHandle& system, const acre::TunnelHandle& about, const QRectF& box) {
  QImage image = blank();
  if (!system) return image;
  MapGeometry whole;
  whole.size = kSmallPicture;
  whole.centre = {about ? acre::Cell{about->x, about->z} : acre::Cell{system->x, system->z}, 0, 0};
  whole.centre.moveBy(box.center().x(), box.center().y());
  whole.cellsPerPixel =
      std::max(box.width() / kSmallPicture.width(), box.height() / kSmallPicture.height());
  CaveLines lines;
  lines.systems.push_back({QString(), system});
  QPainter p(&image);
  lines.paint(p, whole);
  return image;
}

}  // namespace

Pictures passagesOf(const acre::World& low, const acre::World& high, const MapGeometry& view,
    const std::string& tunnels) {
  const acre::TunnelStage *a = tunnelsOf(low, tunnels), *b = tunnelsOf(high, tunnels);
  const auto drawn = [](const acre::TunnelHandle& one, const acre::TunnelHandle& other) {
    const QRectF box = boxOf(one, other);  // What is compared is drawn to one scale.
    return std::pair(drawnSystem(one, one, box), drawnSystem(other, one, box));
  };
  if (!a || !b) return drawn({}, {});
  const acre::Cell at = view.centre.cell;
  acre::TunnelHandle one, other;
  constexpr int64_t kRings = 6;
  for (int64_t ring = 0; ring <= kRings; ++ring)
    for (int64_t j = -ring; j <= ring; ++j)
      for (int64_t i = -ring; i <= ring;
           i += std::abs(j) == ring ? 1 : std::max<int64_t>(1, 2 * ring)) {
        const auto systemIn = [&](const acre::TunnelStage& stage) {
          return stage.system(
              acre::floorDiv(at.x, stage.spacing()) + i, acre::floorDiv(at.z, stage.spacing()) + j);
        };
        const acre::TunnelHandle here = systemIn(*a), there = systemIn(*b);
        const bool differ = !samePassages(here, there);
        if (differ || (!one && here)) one = here, other = there;
        if (differ) return drawn(one, other);
      }
  return drawn(one, other);
}

// ---- the tooltips ------------------------------------------------------------------------------

Previews::Previews(Document& document, QObject* parent)
    : QObject(parent),
      document_(document),
      probe_(document.engine().executor(), acre::Priority::Thumbnail) {}

void Previews::watch(NumberField* field, const NumberSpec& spec, NumberAccess access) {
  watched_[field] = {spec, std::move(access), {}, {}};
  field->installEventFilter(this);
  connect(field, &QObject::destroyed, this, [this, field] { watched_.erase(field); });
}

std::optional<std::pair<double, double>> Previews::endsOf(const NumberField* field) const {
  const auto found = watched_.find(field);
  if (found == watched_.end()) return {};
  if (found->second.ends) return found->second.ends;
  const auto value = found->second.access.get(document_.recipe());
  if (!value) return {};
  const NumberSpec& spec = found->second.spec;
  const double away = *value == 0 ? 20 * spec.step : std::abs(*value);
  double low = *value == 0 ? -away : std::min(*value / 2, *value * 2);
  double high = *value == 0 ? away : std::max(*value / 2, *value * 2);
  if (spec.whole) {
    low = std::floor(std::min(low, *value - 1));
    high = std::ceil(std::max(high, *value + 1));
  }
  low = std::max(low, spec.range.low);
  high = std::min(high, spec.range.high);
  if (low == high) return {};
  return std::pair(low, high);
}

void Previews::lend(QWidget* label, NumberField* field) {
  lent_[label] = field;
  label->installEventFilter(this);
  connect(label, &QObject::destroyed, this, [this, label] { lent_.erase(label); });
}

bool Previews::eventFilter(QObject* watched, QEvent* e) {
  if (e->type() == QEvent::ToolTip) {
    const auto lent = lent_.find(watched);
    auto* field = lent == lent_.end() ? static_cast<NumberField*>(watched) : lent->second;
    if (watched_.contains(field)) ask(field, static_cast<QWidget*>(watched));
  }
  return QObject::eventFilter(watched, e);
}

void Previews::ask(NumberField* field, QWidget* pointed) {
  const auto ends = endsOf(field);
  const Watched& watched = watched_.at(field);
  if (!ends || (!picture_ && !watched.pictures) || view_.size.isEmpty()) return;
  const auto with = [&](double value) {
    acre::Recipe recipe = document_.recipe();
    watched.access.set(recipe, value);
    return recipe;
  };
  probe_.forget();  // What was asked of another number is not shown any more.
  probe_.ask(
      [&engine = document_.engine(), low = with(ends->first), high = with(ends->second),
          picture = picture_, pair = watched.pictures, view = view_] {
        const auto a = engine.compile(low), b = engine.compile(high);
        if (pair) return a && b ? pair(**a, **b, view) : Pictures();
        return Pictures(a ? picture(**a, view) : QImage(), b ? picture(**b, view) : QImage());
      },
      [this, ends = *ends, text = field->help(), unit = watched.spec.unit,
          pointed = QPointer<QWidget>(pointed)](const Pictures& made) {
        emit shown(made.first, made.second);
        if (!pointed || !pointed->underMouse()) return;
        QString plain = text.toHtmlEscaped();
        plain.replace(QLatin1Char('\n'), QStringLiteral("<br>"));
        const auto told = [&](double v) {
          return unit.isEmpty() ? look::figure(v) : look::figure(v) + QLatin1Char(' ') + unit;
        };
        QToolTip::showText(QCursor::pos(),
            QStringLiteral("%1<table cellspacing=4><tr><td>%2</td><td>%3</td></tr>"
                           "<tr><td>%4</td><td>%5</td></tr></table>")
                .arg(plain, inlinePicture(made.first), inlinePicture(made.second), told(ends.first),
                    told(ends.second)),
            pointed);
      });
}

}  // namespace app

#include "moc_preview.cpp"
