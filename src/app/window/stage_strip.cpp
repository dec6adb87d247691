#include "app/window/stage_strip.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <cmath>
#include <utility>

#include "app/look/look.h"
#include "app/map/painted.h"
#include "cave/caves.h"
#include "output/picture.h"

namespace app {
namespace {

constexpr int kNarrowPicture = 30;

/// "Heights, Biomes": the stages of a kind of world that a question is true of.
QString listed(const acre::Recipe& recipe, const std::function<bool(const acre::StageDef&)>& is) {
  QStringList out;
  for (const acre::StageDef& stage : acre::allStages())
    if (stage.isOf(recipe.frame.kind) && is(stage)) out << QObject::tr(stage.title);
  return out.join(QStringLiteral(", "));
}

}  // namespace

StageTile::StageTile(const QString& name, QWidget* parent) : QAbstractButton(parent) {
  setText(name);
  setCheckable(true);
  setFocusPolicy(Qt::TabFocus);
  setMaximumWidth(kTileSize.width());
  setFixedHeight(kTileSize.height());
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void StageTile::setTall(bool tall) {
  tall_ = tall;
  setMaximumWidth(sizeHint().width());
  setFixedHeight(sizeHint().height());
  update();
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

int StageTile::nameRoom() const {
  if (tall_) return width() - 16;
  return narrow() ? width() - 5 - kNarrowPicture - 8 : width() - 8 - kPicture.width() - 11;
}

QRect StageTile::pictureRect() const {
  if (tall_) {
    const int wide = std::min(kTallPicture.width(), width() - 8);
    return {(width() - wide) / 2, 6, wide, kTallPicture.height()};
  }
  const int wide = narrow() ? kNarrowPicture : kPicture.width();
  return {narrow() ? 5 : 8, (height() - kPicture.height()) / 2, wide, kPicture.height()};
}

QRect StageTile::markRect() const {
  if (found_ == 0 || off_) return {};
  if (tall_) return {width() - 34, kTallPicture.height() + 4, 34, 26};
  return narrow() ? QRect(width() - 30, 22, 30, 26) : QRect(width() - 34, 0, 34, 26);
}

void StageTile::mousePressEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton && markRect().contains(e->position().toPoint()))
    return emit markClicked();
  QAbstractButton::mousePressEvent(e);
}

void StageTile::setOff(bool off) {
  off_ = off;
  update();
}

void StageTile::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), isChecked() ? t.chosen : underMouse() ? t.sheet : t.paper);
  const QRect picture = pictureRect();
  if (!picture_.isNull()) {
    // Its middle, as large as it was made; after another size was asked for, scaled until it is
    // there.
    const QSize made = tall_ ? kTallPicture : kPicture;
    const double scale = static_cast<double>(picture_.width()) / made.width();
    const double wide = picture.width() * scale;
    p.drawImage(QRectF(picture), picture_,
        QRectF((picture_.width() - wide) / 2, 0, wide, picture_.height()));
  }
  p.setPen(t.edge);
  p.drawRect(picture.adjusted(0, 0, -1, -1));
  const int room = nameRoom(), left = tall_ ? 8 : width() - room - 3;
  const QRect mark = markRect();
  p.setPen(t.ink);
  QFont name = look::font(look::Type::Body);
  if (isChecked()) name.setWeight(QFont::DemiBold);
  p.setFont(name);
  const int nameTop = tall_ ? picture.bottom() + 3 : 7;
  p.drawText(QRect(left, nameTop, room, 19), Qt::AlignVCenter, text());
  const int nameWidth = p.fontMetrics().horizontalAdvance(text()) + 10;
  p.setPen(t.soft);
  p.setFont(look::font(look::Type::Caption));
  const int noteRoom = (narrow() || tall_ ? room - mark.width() : room) - (tall_ ? nameWidth : 0);
  const QRect note(
      tall_ ? left + nameWidth : left, tall_ ? nameTop : 24, noteRoom, tall_ ? 19 : 16);
  p.drawText(note, Qt::AlignVCenter | (tall_ ? Qt::AlignRight : Qt::AlignLeft),
      p.fontMetrics().elidedText(off_ ? tr("off") : note_, Qt::ElideRight, noteRoom));
  if (off_)
    p.fillRect(picture.adjusted(1, 1, -1, -1),
        QColor(t.paper.red(), t.paper.green(), t.paper.blue(), 190));
  if (!mark.isEmpty()) {
    const QString count = QString::number(found_);
    const int w = p.fontMetrics().horizontalAdvance(count);
    const int x = width() - w - 6, y = mark.top() + (narrow() ? 3 : 7);
    p.setPen(QPen(t.ochre, 2.5, Qt::SolidLine, Qt::FlatCap));
    p.drawLine(x - 6, y + 3, x - 6, y + 10);
    p.drawLine(x - 6, y + 12, x - 6, y + 14);
    p.setPen(t.ink);
    p.drawText(QRect(x, y, w + 4, 17), Qt::AlignVCenter, count);
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
  for (const acre::StageDef& stage : acre::allStages()) {
    auto* tile = new StageTile(tr(stage.title), this);
    tile->setObjectName(QStringLiteral("stage.%1").arg(QLatin1String(stage.key)));
    connect(tile, &QAbstractButton::clicked, this, [this, id = stage.id] { choose(id); });
    connect(
        tile, &StageTile::markClicked, this, [this, id = stage.id] { emit findingsRequested(id); });
    tiles_.push_back(tile);
    row->addWidget(tile);
  }
  row->addStretch(1);
  choose(StageId::Heights);
}

StageStrip::~StageStrip() {
  courier_->close();
  stop_.request_stop();
}

void StageStrip::choose(StageId stage) {
  chosen_ = stage;
  // The frame of the focus goes along, however the stage was chosen.
  if (qobject_cast<StageTile*>(focusWidget()) && focusWidget()->hasFocus()) tile(stage)->setFocus();
  for (const acre::StageDef& each : acre::allStages()) tile(each.id)->setChecked(each.id == stage);
  emit stageChosen(stage);
}

std::vector<StageId> StageStrip::shown() const {
  std::vector<StageId> out;
  for (const acre::StageDef& stage : acre::allStages())
    if (stage.isOf(document_.recipe().frame.kind)) out.push_back(stage.id);
  return out;
}

std::optional<StageId> StageStrip::beside(int by) const {
  const auto all = shown();
  const auto to = std::find(all.begin(), all.end(), chosen_) - all.begin() + by;
  return to >= 0 && to < std::ssize(all) ? std::optional(all[static_cast<size_t>(to)])
                                         : std::nullopt;
}

void StageStrip::refresh() {
  const acre::Recipe& recipe = document_.recipe();
  const auto all = shown();
  for (const acre::StageDef& stage : acre::allStages()) {
    tile(stage.id)->setVisible(stage.isOf(recipe.frame.kind));
    tile(stage.id)->setNote(pageOf(stage.id).note(*document_.world()));
    tile(stage.id)->setOff(stage.on && !stage.on(recipe));
  }
  showSigns();
  showTips();
  if (std::find(all.begin(), all.end(), chosen_) == all.end()) choose(StageId::Heights);
  requestPictures();
}

/// Of stages that have no picture of the world.
void StageStrip::showSigns() {
  for (const StagePage& page : allPages())
    if (page.sign) tile(page.id)->setPicture(page.sign(pictureSize()));
}

void StageStrip::setTall(bool tall) {
  if (std::exchange(tall_, tall) == tall) return;
  setFixedHeight((tall ? look::kWideStrip : look::kStrip) + 2);
  for (StageTile* each : tiles_) each->setTall(tall);
  showSigns();
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
  const int32_t wide = pictureSize().width(), high = pictureSize().height();
  const auto step =
      std::max<int64_t>(1, std::llround(geometry_.size.width() * geometry_.cellsPerPixel / wide));
  const acre::SampleGrid grid{geometry_.centre.cell.x - step * wide / 2,
      geometry_.centre.cell.z - step * high / 2, step, wide, high};
  document_.engine().executor().submit(acre::Priority::Thumbnail, stop_.get_token(),
      [courier = courier_, world = document_.world(), grid, request = ++request_,
          stop = stop_.get_token()] {
        acre::SampleGrid near = grid;
        near.step = std::min<int64_t>(grid.step, acre::CaveStage::kExactStep);
        near.x += (grid.step - near.step) * grid.width / 2;
        near.z += (grid.step - near.step) * grid.length / 2;
        std::array<QImage, acre::kStageCount> images;
        for (const StagePage& page : allPages())
          if (page.picture && !stop.stop_requested())
            images[static_cast<size_t>(page.id)] =
                paintedMap(*world, page.picture(*world), page.near ? near : grid, stop);
        if (stop.stop_requested()) return;
        courier->deliver([request, images](StageStrip& self) {
          if (request != self.request_) return;
          for (const StagePage& page : allPages())
            if (page.picture) self.tile(page.id)->setPicture(images[static_cast<size_t>(page.id)]);
        });
      });
}

void StageStrip::setFigures(const Statistics& statistics) {
  found_.fill(0);
  for (const acre::Check& check : statistics.checks()) ++found_[static_cast<size_t>(check.stage)];
  for (size_t i = 0; i < tiles_.size(); ++i) tiles_[i]->setFound(found_[i]);
  const auto* f = statistics.figures(acre::kHeightsId);
  cost_ = f ? tr("\n%1 ns a cell on one thread.").arg(f->nanosPerCell, 0, 'f', 1) : QString();
  showTips();
}

void StageStrip::showTips() {
  const acre::Recipe& recipe = document_.recipe();
  const auto all = shown();
  for (const StageId id : all) {
    const acre::StageDef& stage = acre::defOf(id);
    QString tip = tr(stage.what);
    const QString reads =
        listed(recipe, [&](const acre::StageDef& s) { return stage.readsStage(s.id); });
    const QString readers =
        listed(recipe, [&](const acre::StageDef& s) { return s.readsStage(stage.id); });
    if (!reads.isEmpty()) tip += tr("\nReads %1.").arg(reads);
    if (!readers.isEmpty()) tip += tr("\nRead by %1.").arg(readers);
    if (stage.id == StageId::Heights) tip += cost_;
    if (found_[static_cast<size_t>(stage.id)] > 0)
      tip += tr("\nThe mark counts what the checks found; click it to read them.");
    tip += tr("\nPress %1, or Ctrl+PgUp and Ctrl+PgDn; Space switches it on and off.")
               .arg(pageOf(stage.id).digit);
    tile(stage.id)->setToolTip(tip);
  }
}

void StageStrip::setBusy(bool busy) {
  if (busy == busy_) return;
  busy_ = busy;
  update();
}

void StageStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), look::tokens().paper);
  p.fillRect(
      QRect(0, 0, width(), busy_ ? 2 : 1), busy_ ? look::tokens().verdigris : look::tokens().rule);
}

void StageStrip::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Space) return emit stageSwitched(chosen_);
  if (e->key() != Qt::Key_Left && e->key() != Qt::Key_Right) return QWidget::keyPressEvent(e);
  if (const auto to = beside(e->key() == Qt::Key_Left ? -1 : 1)) {
    choose(*to);
    tile(*to)->setFocus();
  }
}

}  // namespace app

#include "moc_stage_strip.cpp"
