#include "app/tiles/trial_board.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include "app/look/look.h"
#include "base/hash.h"

namespace app {

TrialBoard::TrialBoard(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Trial board"));
  setToolTip(
      tr("Paint inside with the left button, outside with the right one.\n"
         "By keys: the arrows and Space."));
  // Something to see at once.
  for (int z = 2; z < 6; ++z)
    for (int x = 3; x < 9; ++x) board_.set(x, z, !(x == 3 && z == 2));
  board_.set(9, 1, true);
}

void TrialBoard::show(std::shared_ptr<const SheetOfSet> of) {
  of_ = std::move(of);
  draw();
}

int TrialBoard::side() const {
  return std::max(4, (width() - 2) / board_.width);
}

int TrialBoard::heightForWidth(int width) const {
  return std::max(4, (width - 2) / board_.width) * board_.length + 2;
}

QRect TrialBoard::boxOf(int x, int z) const {
  return {1 + x * side(), 1 + z * side(), side(), side()};
}

void TrialBoard::clear() {
  board_ = acre::TileBoard(kWide, kLong);
  x_ = z_ = 0;
  fit();
}

void TrialBoard::fillAtRandom() {
  board_ = acre::TileBoard(kWide, kLong);
  ++fills_;
  for (int z = 0; z < kLong; ++z)
    for (int x = 0; x < kWide; ++x)
      board_.set(
          x, z, acre::mix64(fills_ * 977u + static_cast<uint32_t>(z * kWide + x)) >> 63 != 0);
  x_ = z_ = 0;
  fit();
}

void TrialBoard::showEveryCase() {
  if (!of_) return;
  board_ = acre::TileBoard::ofEveryCase(acre::TileCases(of_->set.method, of_->set.turns));
  x_ = z_ = 0;
  fit();
}

std::set<int> TrialBoard::casesThere() const {
  std::set<int> out;
  if (!of_) return out;
  const acre::TileCases cases(of_->set.method, of_->set.turns);
  for (int z = -1; z < board_.length; ++z)
    for (int x = -1; x < board_.width; ++x)
      if (const int n = board_.caseAt(cases, x, z); n >= 0) out.insert(n);
  return out;
}

void TrialBoard::fit() {
  setFixedHeight(heightForWidth(width()));
  draw();
}

void TrialBoard::draw() {
  picture_ = of_ ? imageOf(acre::drawBoard(of_->set, of_->art, board_, side())) : QImage();
  update();
}

void TrialBoard::paintEvent(QPaintEvent*) {
  const look::Tokens& t = look::tokens();
  QPainter p(this);
  if (!picture_.isNull()) p.drawImage(1, 1, picture_);
  const QRect all(0, 0, side() * board_.width + 1, side() * board_.length + 1);
  QColor line = t.ink;
  line.setAlphaF(0.16F);
  p.setPen(line);
  for (int x = 1; x < board_.width; ++x) p.drawLine(x * side(), 0, x * side(), all.bottom());
  for (int z = 1; z < board_.length; ++z) p.drawLine(0, z * side(), all.right(), z * side());
  p.setPen(t.edge);
  p.drawRect(all);
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(boxOf(x_, z_).adjusted(1, 1, -1, -1));
  }
}

void TrialBoard::paintAt(QPointF at, Qt::MouseButtons buttons) {
  const int x = static_cast<int>(std::floor((at.x() - 1) / side()));
  const int z = static_cast<int>(std::floor((at.y() - 1) / side()));
  if (!board_.holds(x, z) || !(buttons & (Qt::LeftButton | Qt::RightButton))) return;
  x_ = x;
  z_ = z;
  board_.set(x, z, buttons.testFlag(Qt::LeftButton));
  draw();
}

void TrialBoard::mousePressEvent(QMouseEvent* event) {
  paintAt(event->position(), event->buttons());
}
void TrialBoard::mouseMoveEvent(QMouseEvent* event) {
  paintAt(event->position(), event->buttons());
}

void TrialBoard::keyPressEvent(QKeyEvent* event) {
  const auto move = [this](int dx, int dz) {
    if (!board_.holds(x_ + dx, z_ + dz)) return;
    x_ += dx;
    z_ += dz;
    update();
  };
  switch (event->key()) {
    case Qt::Key_Left:
      return move(-1, 0);
    case Qt::Key_Right:
      return move(1, 0);
    case Qt::Key_Up:
      return move(0, -1);
    case Qt::Key_Down:
      return move(0, 1);
    case Qt::Key_Space:
      board_.set(x_, z_, !board_.at(x_, z_));
      return draw();
    default:
      QWidget::keyPressEvent(event);
  }
}

}  // namespace app

#include "moc_trial_board.cpp"
