#include "app/window/stage_strip.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <array>
#include <cmath>

#include "app/look/look.h"
#include "cave/caves.h"
#include "output/picture.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"

namespace app {
namespace {

constexpr int kPictureWidth = 52;
constexpr int kPictureHeight = 36;

/// A small picture; empty when the world has none of that kind.
QImage paintPicture(const acre::World& world, const acre::Picture& picture,
                    const acre::SampleGrid& grid, const std::stop_token& stop) {
  if (!acre::checkPicture(world, picture)) return {};
  const auto made = acre::sampleWithRim(world, picture, grid, stop);
  if (!made) return {};
  const acre::Samples& samples = *made;
  const acre::Palette palette(world, picture);
  QImage image(samples.inner.width, samples.inner.height, QImage::Format_RGB32);
  for (int32_t j = 0; j < samples.inner.height; ++j)
    palette.paintRow(samples, j, acre::Unassigned::Hatched,
                     reinterpret_cast<uint32_t*>(image.scanLine(j)));
  return image;
}

/// The Frame tile: a neat corner with chunk lines, in the tokens' colours.
QImage frameSign() {
  QImage image(kPictureWidth, kPictureHeight, QImage::Format_RGB32);
  image.fill(look::tokens().sheet);
  QPainter p(&image);
  p.setPen(QPen(look::tokens().rule, 1));
  for (int x = 10; x < kPictureWidth; x += 8) p.drawLine(x, 6, x, kPictureHeight);
  for (int y = 6; y < kPictureHeight; y += 8) p.drawLine(10, y, kPictureWidth, y);
  p.setPen(QPen(look::tokens().ink, 1.5));
  p.drawLine(10, 6, kPictureWidth, 6);
  p.drawLine(10, 6, 10, kPictureHeight);
  return image;
}

QString tipOf(int stage, const QString& what) {
  return what + QObject::tr("\nPress %1, or Ctrl+PgUp and Ctrl+PgDn; Space switches it on and off.")
                    .arg(stage + 1);
}

}  // namespace

StageTile::StageTile(const QString& name, QWidget* parent) : QAbstractButton(parent) {
  setText(name);
  setCheckable(true);
  setFocusPolicy(Qt::TabFocus);
  setFixedSize(kTileSize);
}

void StageTile::setPicture(const QImage& picture) {
  picture_ = picture;
  update();
}

void StageTile::keyPressEvent(QKeyEvent* e) {
  // Space switches the stage; choosing it is what arrows and clicks do.
  if (e->key() == Qt::Key_Space) return e->ignore();
  QAbstractButton::keyPressEvent(e);
}

void StageTile::setNote(const QString& note) {
  note_ = note;
  setAccessibleDescription(note);
  update();
}

void StageTile::setFound(int checks) {
  found_ = checks;
  update();
}

void StageTile::setOff(bool off) {
  off_ = off;
  update();
}

void StageTile::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), isChecked() ? t.chosen : underMouse() ? t.sheet : t.paper);
  const QRect picture(8, (height() - kPictureHeight) / 2, kPictureWidth, kPictureHeight);
  if (!picture_.isNull()) p.drawImage(picture, picture_);
  p.setPen(t.edge);
  p.drawRect(picture.adjusted(0, 0, -1, -1));
  p.setPen(t.ink);
  QFont name = look::font(look::Type::Body);
  if (isChecked()) name.setWeight(QFont::DemiBold);
  p.setFont(name);
  p.drawText(QRect(picture.right() + 9, 7, width() - picture.right() - 12, 17), Qt::AlignVCenter,
             text());
  p.setPen(t.soft);
  p.setFont(look::font(look::Type::Caption));
  p.drawText(QRect(picture.right() + 9, 24, width() - picture.right() - 12, 16), Qt::AlignVCenter,
             p.fontMetrics().elidedText(off_ ? tr("off") : note_, Qt::ElideRight,
                                        width() - picture.right() - 12));
  if (off_)
    p.fillRect(picture.adjusted(1, 1, -1, -1),
               QColor(t.paper.red(), t.paper.green(), t.paper.blue(), 190));
  if (found_ > 0 && !off_) {
    const QString count = QString::number(found_);
    const int w = p.fontMetrics().horizontalAdvance(count);
    const int x = width() - w - 6;
    p.setPen(QPen(t.ochre, 2.5, Qt::SolidLine, Qt::FlatCap));
    p.drawLine(x - 6, 10, x - 6, 17);
    p.drawLine(x - 6, 19, x - 6, 21);
    p.setPen(t.ink);
    p.drawText(QRect(x, 7, w + 4, 17), Qt::AlignVCenter, count);
  }
  if (isChecked()) p.fillRect(QRect(0, 0, width(), 2), t.madder);
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

StageStrip::StageStrip(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), courier_(std::make_shared<Courier<StageStrip>>(this)) {
  setObjectName(QStringLiteral("strip"));
  setFixedHeight(look::kStrip + 2);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 2, 0, 0);
  row->setSpacing(0);
  const QString names[kStages] = {tr("Frame"),  tr("Heights"), tr("Climate"),
                                  tr("Biomes"), tr("Strata"),  tr("Caves")};
  const QString tips[kStages] = {
      tr("What kind of world, its sea level, chunks and bounds."),
      tr("Layers of noise that make the ground's altitude."),
      tr("Temperature and moisture, the fields of the chart."),
      tr("The chart that says what lives where, and the regions it is "
         "laid on."),
      tr("Bands of altitude that decide what the ground is made of."),
      tr("Tunnel systems, noise voids and automata, dug into the ground.")};
  for (int i = 0; i < kStages; ++i) {
    tips_ << tipOf(i, tips[i]);
    auto* tile = new StageTile(names[i], this);
    tile->setObjectName(QStringLiteral("stage.%1").arg(i));
    tile->setToolTip(tips_[i]);
    connect(tile, &QAbstractButton::clicked, this, [this, i] { choose(static_cast<Stage>(i)); });
    tiles_.push_back(tile);
    row->addWidget(tile);
  }
  row->addStretch(1);
  tiles_[0]->setPicture(frameSign());
  choose(Stage::Heights);
}

StageStrip::~StageStrip() {
  courier_->close();
  stop_.request_stop();
}

void StageStrip::choose(Stage stage) {
  chosen_ = stage;
  for (int i = 0; i < kStages; ++i)
    tiles_[static_cast<size_t>(i)]->setChecked(i == static_cast<int>(stage));
  emit stageChosen(stage);
}

void StageStrip::refresh() {
  const acre::Recipe& recipe = document_.recipe();
  const double sea = std::round(planOf(*document_.world()).seaLevel() * 100) / 100;
  tiles_[0]->setPicture(frameSign());
  tiles_[0]->setNote(recipe.frame.x || recipe.frame.z
                         ? tr("bounded, sea %1").arg(look::number(sea))
                         : tr("endless, sea %1").arg(look::number(sea)));
  const auto layers = recipe.heights.layers.size(), bands = recipe.bands.size();
  tiles_[1]->setNote(layers == 1 ? tr("1 layer") : tr("%1 layers").arg(layers));
  const auto biomes = recipe.biomes.list.size();
  tiles_[2]->setNote(
      recipe.climate.temperature.unit.empty()
          ? tr("two fields")
          : QStringLiteral("%1, %2").arg(QString::fromStdString(recipe.climate.temperature.unit),
                                         QString::fromStdString(recipe.climate.moisture.unit)));
  tiles_[3]->setNote(biomes == 1 ? tr("1 biome") : tr("%1 biomes").arg(biomes));
  tiles_[4]->setNote(bands == 1 ? tr("1 band") : tr("%1 bands").arg(bands));
  const auto parts =
      recipe.caves->tunnels.size() + recipe.caves->voids.size() + recipe.caves->automata.size();
  const bool level = recipe.frame.kind == acre::WorldKind::Level;
  tiles_[5]->setText(level ? tr("Level") : tr("Caves"));
  tips_[5] = tipOf(5, level ? tr("The processes that make a floor, and the places that must be "
                                 "there.")
                            : tr("Tunnel systems, noise voids and automata, dug into the ground."));
  tiles_[5]->setToolTip(tips_[5]);
  if (level)
    tiles_[5]->setNote(tr("floor %1").arg(recipe.level->floor));
  else
    tiles_[5]->setNote(parts == 0   ? tr("none")
                       : parts == 1 ? tr("1 part")
                                    : tr("%1 parts").arg(parts));
  tiles_[5]->setOff(level ? !recipe.level->on : !recipe.caves->on);
  tiles_[1]->setOff(!recipe.heightsOn);
  tiles_[2]->setOff(!recipe.climate.on);
  tiles_[3]->setOff(!recipe.biomes.on);
  tiles_[4]->setOff(!recipe.strataOn);
  requestPictures();
}

void StageStrip::setView(const MapGeometry& geometry) {
  geometry_ = geometry;
  requestPictures();
}

void StageStrip::requestPictures() {
  if (geometry_.size.isEmpty()) return;
  stop_.request_stop();
  stop_ = {};
  const auto step = std::max<int64_t>(
      1, std::llround(geometry_.size.width() * geometry_.cellsPerPixel / kPictureWidth));
  const acre::SampleGrid grid{geometry_.centre.cell.x - step * kPictureWidth / 2,
                              geometry_.centre.cell.z - step * kPictureHeight / 2, step,
                              kPictureWidth, kPictureHeight};
  document_.engine().executor().submit(
      acre::Priority::Thumbnail, [courier = courier_, world = document_.world(), grid,
                                  request = ++request_, stop = stop_.get_token()] {
        if (stop.stop_requested()) return;
        // Borders are left out: at this size they would cover what they part.
        using acre::PictureKind;
        // Caves are seen somewhat below the sea, where there is ground everywhere, and as near as
        // they are still there.
        acre::SampleGrid near = grid;
        near.step = std::min<int64_t>(grid.step, acre::CaveStage::kExactStep);
        near.x += (grid.step - near.step) * kPictureWidth / 2;
        near.z += (grid.step - near.step) * kPictureHeight / 2;
        acre::Picture caves;
        if (planOf(*world).blocks() && planOf(*world).caves()) {
          const acre::AxisBounds range = planOf(*world).vertical();
          caves = {PictureKind::Slice, {}, {}, false};
          caves.level = std::clamp(static_cast<int64_t>(planOf(*world).seaLevel()) - 16, range.min,
                                   range.min + range.extent - 1);
        }
        acre::Picture heights{PictureKind::Height, {}, {}, false};
        if (planOf(*world).level()) heights = {PictureKind::Field, acre::kHeightsId, {}, false};
        const acre::Picture pictures[kStages] = {
            {},
            heights,
            {PictureKind::Field, acre::kTemperatureId, {}, false},
            {PictureKind::Biome, {}, {}, false},
            {},
            caves};
        std::array<QImage, kStages> images;
        for (size_t i = 1; i < kStages && !stop.stop_requested(); ++i)
          images[i] = paintPicture(*world, pictures[i],
                                   i == static_cast<size_t>(Stage::Caves) ? near : grid, stop);
        if (stop.stop_requested()) return;
        courier->deliver([request, images](StageStrip& self) {
          if (request != self.request_) return;
          for (size_t i = 1; i < kStages; ++i) self.tiles_[i]->setPicture(images[i]);
        });
      });
}

void StageStrip::setFigures(const Statistics& statistics) {
  int found[kStages] = {};
  for (const acre::Check& check : statistics.checks())  // Levels stand in the place of caves.
    ++found[std::min(static_cast<int>(check.stage), kStages - 1)];
  for (size_t i = 0; i < kStages; ++i) tiles_[i]->setFound(found[i]);
  QString cost;
  if (const auto* f = statistics.figures(acre::kHeightsId))
    cost = tr("\n%1 ns a cell on one thread.").arg(f->nanosPerCell, 0, 'f', 1);
  const QString marks = tr("\nThe mark counts what the checks found.");
  for (int i = 1; i < kStages; ++i)
    tiles_[static_cast<size_t>(i)]->setToolTip(tips_[i] + (i == 1 ? cost : QString()) +
                                               (found[i] ? marks : QString()));
}

void StageStrip::setBusy(bool busy) {
  if (busy == busy_) return;
  busy_ = busy;
  update();
}

void StageStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), look::tokens().paper);
  p.fillRect(QRect(0, 0, width(), busy_ ? 2 : 1),
             busy_ ? look::tokens().verdigris : look::tokens().rule);
}

void StageStrip::keyPressEvent(QKeyEvent* e) {
  const int now = static_cast<int>(chosen_);
  const auto go = [&](int to) {
    if (to < 0 || to >= kStages) return;
    choose(static_cast<Stage>(to));
    tiles_[static_cast<size_t>(to)]->setFocus();
  };
  if (e->key() == Qt::Key_Space) return emit stageSwitched(chosen_);
  if (e->key() == Qt::Key_Left) return go(now - 1);
  if (e->key() == Qt::Key_Right) return go(now + 1);
  QWidget::keyPressEvent(e);
}

}  // namespace app
