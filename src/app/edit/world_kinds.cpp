#include "app/edit/world_kinds.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/edit/preview.h"
#include "app/look/look.h"
#include "app/map/painted.h"
#include "recipe/map_inks.h"
#include "world/demos.h"
#include "world/world.h"

namespace app {
namespace {

constexpr QSize kKindPicture(78, 54);
constexpr QSize kStartPicture(108, 68);
constexpr int kStartsARow = 3;

QColor ink(const acre::Colour& colour) {
  return QColor::fromRgb(acre::opaqueInk(colour));
}

// ---- the kinds, drawn with the pen -------------------------------------------------------------

/// Land and sea from above, with a coast in ink.
void drawOverland(QPainter& p) {
  p.fillRect(QRect(QPoint(), kKindPicture), ink(acre::inks::kShallow));
  QPainterPath land(QPointF(0, 14));
  land.cubicTo(18, 4, 26, 22, 40, 16);
  land.cubicTo(56, 10, 62, 26, 54, 36);
  land.cubicTo(48, 44, 52, 48, 46, 54);
  land.lineTo(0, 54);
  land.closeSubpath();
  p.fillPath(land, ink(acre::inks::kWetMeadow));
  QPainterPath wood(QPointF(0, 30));
  wood.cubicTo(10, 24, 26, 28, 30, 38);
  wood.cubicTo(32, 46, 24, 50, 22, 54);
  wood.lineTo(0, 54);
  wood.closeSubpath();
  p.fillPath(wood, ink(acre::inks::kBeechwood));
  p.setPen(QPen(look::tokens().ink, 1.25));
  p.setBrush(Qt::NoBrush);
  p.drawPath(land);
}

/// Steps of blocks, seen from a corner above.
void drawVoxel(QPainter& p) {
  p.fillRect(QRect(QPoint(), kKindPicture), QColor::fromRgb(acre::kPaperInk));
  constexpr double kWide = 9, kDeep = 4.5, kTall = 9;
  const int heights[3][3] = {{3, 2, 1}, {2, 2, 1}, {1, 1, 0}};
  const QColor top = ink(acre::inks::kWetMeadow), left = ink(acre::inks::kMudflat),
               right = ink(acre::inks::kMudflat).darker(125);
  p.setPen(QPen(look::tokens().ink, 0.75));
  for (int z = 0; z < 3; ++z)
    for (int x = 0; x < 3; ++x) {
      const double high = kTall * (heights[z][x] + 0.5);
      const QPointF at(39 + (x - z) * kWide, 46 - (4 - x - z) * kDeep - high);
      const QPointF e(kWide, kDeep), w(-kWide, kDeep), down(0, high);
      p.setBrush(heights[z][x] == 0 ? ink(acre::inks::kShallow) : top);
      p.drawPolygon(QPolygonF({at, at + e, at + e + w, at + w}));
      p.setBrush(left);
      p.drawPolygon(QPolygonF({at + w, at + e + w, at + e + w + down, at + w + down}));
      p.setBrush(right);
      p.drawPolygon(QPolygonF({at + e, at + e + w, at + e + w + down, at + e + down}));
    }
}

/// A cut with a cliff, the sea and a cave.
void drawSide(QPainter& p) {
  p.fillRect(QRect(QPoint(), kKindPicture), QColor::fromRgb(acre::kPaperInk));
  p.fillRect(QRect(44, 32, 34, 22), ink(acre::inks::kShallow));
  QPainterPath land(QPointF(0, 18));
  land.cubicTo(12, 10, 22, 16, 32, 12);
  land.lineTo(40, 13);
  land.lineTo(42, 20);
  land.lineTo(39, 26);
  land.lineTo(47, 38);
  land.cubicTo(56, 44, 66, 42, 78, 46);
  land.lineTo(78, 54);
  land.lineTo(0, 54);
  land.closeSubpath();
  p.fillPath(land, ink(acre::inks::kLimestone));
  p.setClipPath(land);
  p.fillRect(QRect(0, 40, 78, 14), ink(acre::inks::kOrchard));
  p.setClipping(false);
  p.setPen(QPen(look::tokens().ink, 1));
  p.setBrush(QColor::fromRgb(acre::kPaperInk));
  p.drawEllipse(QPointF(20, 30), 8, 4);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(look::tokens().ink, 1.25));
  p.drawPath(land);
}

/// Rooms and ways in rock.
void drawLevel(QPainter& p) {
  p.fillRect(QRect(QPoint(), kKindPicture), ink(acre::inks::kMudflat));
  QPainterPath open;
  open.setFillRule(Qt::WindingFill);
  for (const QRect& room :
      {QRect(7, 7, 20, 14), QRect(46, 6, 24, 17), QRect(12, 33, 18, 15), QRect(50, 34, 16, 13),
          QRect(27, 12, 19, 4), QRect(18, 21, 4, 12), QRect(30, 38, 20, 4), QRect(57, 23, 4, 11)})
    open.addRect(room);
  p.setPen(QPen(look::tokens().ink, 1.5));
  p.setBrush(QColor::fromRgb(acre::kPaperInk));
  p.drawPath(open.simplified());
}

struct Kind {
  acre::WorldKind kind;
  const char* key;
  const char* name;
  const char* what;
  void (*draw)(QPainter&);
};
constexpr Kind kKinds[] = {{acre::WorldKind::Overland, "overland", QT_TR_NOOP("Overland"),
                               QT_TR_NOOP("Tiles seen from above"), drawOverland},
    {acre::WorldKind::Voxel, "voxel", QT_TR_NOOP("Voxel"),
        QT_TR_NOOP("Blocks, in cubes or in tall columns"), drawVoxel},
    {acre::WorldKind::Side, "side", QT_TR_NOOP("Side"), QT_TR_NOOP("A cut seen from the side"),
        drawSide},
    {acre::WorldKind::Level, "level", QT_TR_NOOP("Level"),
        QT_TR_NOOP("One floor of rock and open space"), drawLevel}};

// ---- the starts --------------------------------------------------------------------------------

QImage pictureOf(const acre::World& world) {
  const acre::Frame& frame = world.recipe().frame;
  MapGeometry view;
  view.size = kStartPicture;
  if (frame.kind == acre::WorldKind::Side) return alongCut(world, view);
  const int32_t wide = kStartPicture.width(), high = kStartPicture.height();
  int64_t step = frame.kind == acre::WorldKind::Voxel ? 6 : 16;
  acre::Cell middle;
  if (world.bounded()) {
    const acre::Rect& bounds = planOf(world).bounds();
    middle = {bounds.x + bounds.width / 2, bounds.z + bounds.length / 2};
    step = std::max({int64_t{1}, acre::floorDiv(bounds.width + wide - 1, wide),
        acre::floorDiv(bounds.length + high - 1, high)});
  }
  return paintedMap(
      world, {}, {middle.x - step * wide / 2, middle.z - step * high / 2, step, wide, high});
}

}  // namespace

KindPictures::KindPictures(QWidget* parent) : QWidget(parent) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  for (const Kind& kind : kKinds) {
    auto* button = new PictureButton(
        tr(kind.name), QStringLiteral("frame.kind.") + QLatin1String(kind.key), kKindPicture);
    button->setCheckable(true);
    button->setToolTip(
        tr("%1.\nHeights, climate, biomes and bands stay as they are; blocks add "
           "layers by depth, rock and ores in the Strata.")
            .arg(tr(kind.what)));
    const double ratio = 2;  // Sharp where a pixel of the desktop is several of the screen.
    QImage image(kKindPicture * ratio, QImage::Format_RGB32);
    image.setDevicePixelRatio(ratio);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    kind.draw(p);
    p.end();
    button->setPicture(image);
    group_.addButton(button, static_cast<int>(kind.kind));
    row->addWidget(button);
  }
  row->addStretch(1);
  connect(&group_, &QButtonGroup::idClicked, this,
      [this](int kind) { emit chosen(static_cast<acre::WorldKind>(kind)); });
}

void KindPictures::show(acre::WorldKind kind) {
  group_.button(static_cast<int>(kind))->setChecked(true);
}

std::vector<StartPictures::Seen> StartPictures::seenOf(acre::Engine& engine) {
  std::vector<Seen> out;
  for (const acre::Demo& start : acre::starts()) {
    const auto recipe = acre::recipeFromJson(start.json);
    const auto world = recipe ? engine.compile(*recipe, true) : recipe.error();
    out.push_back({QString::fromStdString(recipe ? recipe->name : start.name),
        world ? pictureOf(**world) : QImage()});
  }
  return out;
}

StartPictures::StartPictures(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      probe_(document.engine().executor(), acre::Priority::Thumbnail) {
  auto* grid = new QGridLayout(this);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setSpacing(6);
  for (const acre::Demo& start : acre::starts()) {
    const QString id = QString::fromStdString(start.name);
    auto* button = new PictureButton(id, QStringLiteral("frame.start.") + id, kStartPicture);
    button->setToolTip(
        tr("Begins with this world: everything in it can be changed, Undo brings "
           "back what was there before."));
    connect(button, &QAbstractButton::clicked, this, [this, id] { emit chosen(id); });
    const int at = static_cast<int>(buttons_.size());
    grid->addWidget(button, at / kStartsARow, at % kStartsARow);
    buttons_.push_back(button);
  }
  grid->setColumnStretch(kStartsARow, 1);
}

void StartPictures::showEvent(QShowEvent* e) {
  QWidget::showEvent(e);
  if (std::exchange(asked_, true)) return;
  probe_.ask([&engine = document_.engine()] { return seenOf(engine); },
      [this](const std::vector<Seen>& seen) {
        for (size_t i = 0; i < seen.size(); ++i) {
          buttons_[i]->setText(seen[i].name);
          buttons_[i]->setAccessibleName(seen[i].name);
          buttons_[i]->setPicture(seen[i].picture);
        }
      });
}

}  // namespace app

#include "moc_world_kinds.cpp"
