#include "app/objects/piece_grid.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>

#include "app/look/look.h"

namespace app {

std::map<char, QColor> inksOf(const acre::ObjectPiece& piece, const acre::Recipe& recipe) {
  std::map<char, QColor> out;
  for (const acre::PieceSign& sign : piece.signs)
    for (const acre::Material& m : recipe.materials)
      if (m.id == sign.material)
        out[sign.sign[0]] = QColor(m.colour.red, m.colour.green, m.colour.blue);
  return out;
}

// ---- one layer ---------------------------------------------------------------------------------

PieceGrid::PieceGrid(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::CrossCursor);
  setToolTip(
      tr("Draw with the left button, leave with the right one.\nArrow keys move, the space bar "
         "draws, Backspace leaves."));
  QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Fixed);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
}

void PieceGrid::show(const acre::ObjectPiece& piece, const acre::Recipe& recipe, size_t layer) {
  piece_ = piece;
  inks_ = inksOf(piece, recipe);
  layer_ = std::min(layer, piece.layers.size() - 1);
  x_ = std::min(x_, wide() - 1);
  z_ = std::min(z_, rows() - 1);
  tell();
  updateGeometry();
  update();
}

int PieceGrid::wide() const {
  return piece_.layers.empty() ? 0 : static_cast<int>(piece_.layers[0].rows[0].size());
}
int PieceGrid::rows() const {
  return piece_.layers.empty() ? 0 : static_cast<int>(piece_.layers[0].rows.size());
}
double PieceGrid::side() const {
  constexpr double kRoom = 176, kLargest = 22;
  return std::clamp(kRoom / std::max({wide(), rows(), 1}), 2.75, kLargest);
}
QSize PieceGrid::sizeHint() const {
  return {static_cast<int>(std::ceil(wide() * side())) + 2,
      static_cast<int>(std::ceil(rows() * side())) + 2};
}
QRectF PieceGrid::boxOf(int x, int z) const {
  return {1 + x * side(), 1 + z * side(), side(), side()};
}

void PieceGrid::tell() {
  if (piece_.layers.empty()) return;
  const char sign = piece_.layers[layer_].rows[static_cast<size_t>(z_)][static_cast<size_t>(x_)];
  QString holds = sign == acre::ObjectPiece::kLeft     ? tr("left as it is")
                  : sign == acre::ObjectPiece::kOpened ? tr("opened")
                                                       : QString();
  for (const acre::PieceSign& one : piece_.signs)
    if (one.sign[0] == sign) holds = QString::fromStdString(one.material);
  setAccessibleDescription(
      tr("layer %1 of %2, column %3, row %4: %5")
          .arg(QString::number(layer_ + 1), QString::number(piece_.layers.size()),
              QString::number(x_ + 1), QString::number(z_ + 1), holds));
}

void PieceGrid::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(QRectF(1, 1, wide() * side(), rows() * side()), t.sheet);
  const auto signAt = [&](size_t layer, int x, int z) {
    return piece_.layers[layer].rows[static_cast<size_t>(z)][static_cast<size_t>(x)];
  };
  for (int z = 0; z < rows(); ++z)
    for (int x = 0; x < wide(); ++x) {
      const QRectF box = boxOf(x, z);
      const char sign = signAt(layer_, x, z);
      if (const auto ink = inks_.find(sign); ink != inks_.end()) {
        p.fillRect(box, ink->second);
      } else if (sign == acre::ObjectPiece::kOpened) {
        p.setPen(QPen(t.soft, 1));
        p.drawLine(box.topLeft(), box.bottomRight());
        p.drawLine(box.topRight(), box.bottomLeft());
      } else if (layer_ > 0) {  // What lies below it, faintly.
        if (const auto under = inks_.find(signAt(layer_ - 1, x, z)); under != inks_.end()) {
          QColor faint = under->second;
          faint.setAlpha(70);
          p.fillRect(box, faint);
        }
      }
    }
  p.setPen(QPen(t.rule, 1));
  if (side() > 5)
    for (int x = 0; x <= wide(); ++x) p.drawLine(boxOf(x, 0).topLeft(), boxOf(x, rows()).topLeft());
  if (side() > 5)
    for (int z = 0; z <= rows(); ++z) p.drawLine(boxOf(0, z).topLeft(), boxOf(wide(), z).topLeft());
  const acre::PieceAnchor anchor =
      piece_.anchor.value_or(acre::PieceAnchor{wide() / 2, rows() / 2});
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.madder, 1.5));
  p.setBrush(Qt::NoBrush);
  const QRectF stands = boxOf(anchor.x, anchor.z);
  p.drawEllipse(stands.center(), stands.width() * 0.28, stands.width() * 0.28);
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(boxOf(x_, z_).adjusted(1, 1, -1, -1));
  }
}

void PieceGrid::draw(QPointF at, Qt::MouseButtons buttons) {
  const auto x = static_cast<int>(std::floor((at.x() - 1) / side()));
  const auto z = static_cast<int>(std::floor((at.y() - 1) / side()));
  if (x < 0 || z < 0 || x >= wide() || z >= rows() || last_ == std::pair(x, z)) return;
  last_ = {x_ = x, z_ = z};
  emit drawn(x, z, (buttons & Qt::RightButton) != 0);
}
void PieceGrid::mousePressEvent(QMouseEvent* event) {
  last_ = {-1, -1};
  draw(event->position(), event->buttons());
}
void PieceGrid::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() != Qt::NoButton) draw(event->position(), event->buttons());
}
void PieceGrid::mouseReleaseEvent(QMouseEvent*) {
  last_ = {-1, -1};
  emit strokeEnded();
}

void PieceGrid::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Left:
      x_ = std::max(0, x_ - 1);
      break;
    case Qt::Key_Right:
      x_ = std::min(wide() - 1, x_ + 1);
      break;
    case Qt::Key_Up:
      z_ = std::max(0, z_ - 1);
      break;
    case Qt::Key_Down:
      z_ = std::min(rows() - 1, z_ + 1);
      break;
    case Qt::Key_Space:
    case Qt::Key_Backspace:
      emit drawn(x_, z_, event->key() == Qt::Key_Backspace);
      emit strokeEnded();
      break;
    default:
      return QWidget::keyPressEvent(event);
  }
  tell();
  update();
}

// ---- all of it ---------------------------------------------------------------------------------

PieceModel::PieceModel(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::SizeHorCursor);
  setToolTip(tr("Drag, or ← and →, to turn it; the layer that is drawn on is the highest shown."));
  setMinimumSize(150, 150);
}

void PieceModel::show(const acre::ObjectPiece& piece, const acre::Recipe& recipe, size_t layers) {
  piece_ = piece;
  inks_ = inksOf(piece, recipe);
  layers_ = std::min(layers, piece.layers.size());
  update();
}

void PieceModel::mousePressEvent(QMouseEvent* event) {
  pressed_ = event->position().x();
  from_ = turn_;
}
void PieceModel::mouseMoveEvent(QMouseEvent* event) {
  turn_ = std::fmod(from_ + (event->position().x() - pressed_) * 1.2 + 3600, 360);
  update();
}
void PieceModel::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Left && event->key() != Qt::Key_Right)
    return QWidget::keyPressEvent(event);
  turn_ = std::fmod(turn_ + (event->key() == Qt::Key_Right ? 15 : 345), 360);
  update();
}

void PieceModel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), t.sheet);
  p.setPen(hasFocus() ? t.ink : t.rule);
  p.drawRect(rect().adjusted(0, 0, -1, -1));
  if (piece_.layers.empty()) return;
  const auto rows = static_cast<int>(piece_.layers[0].rows.size());
  const auto wide = static_cast<int>(piece_.layers[0].rows[0].size());
  const auto tall = static_cast<int>(piece_.layers.size());
  const double angle = turn_ * std::numbers::pi / 180, s = std::sin(angle), c = std::cos(angle);
  constexpr double kTilt = 0.5;  // Of the ground; the upright axis is foreshortened to fit.
  const double across = std::hypot(wide, rows);
  const double scale =
      std::min({(width() - 12) / across, (height() - 12) / (across * kTilt + tall * 0.87), 26.0});
  const QPointF middle(width() / 2.0, height() / 2.0 + tall * 0.87 * scale / 2);
  const auto toScreen = [&](double x, double y, double z) {
    x -= wide / 2.0;
    z -= rows / 2.0;
    return middle + QPointF((x * c - z * s) * scale, ((x * s + z * c) * kTilt - y * 0.87) * scale);
  };
  const auto inkAt = [&](int x, int y, int z) -> const QColor* {
    if (x < 0 || z < 0 || y < 0 || x >= wide || z >= rows || y >= static_cast<int>(layers_))
      return nullptr;
    const auto found = inks_.find(
        piece_.layers[static_cast<size_t>(y)].rows[static_cast<size_t>(z)][static_cast<size_t>(x)]);
    return found == inks_.end() ? nullptr : &found->second;
  };
  p.setRenderHint(QPainter::Antialiasing);
  // The ground that it is sunk into.
  p.setPen(QPen(t.rule, 1));
  p.setBrush(Qt::NoBrush);
  p.drawPolygon(QPolygonF({toScreen(0, piece_.sink, 0), toScreen(wide, piece_.sink, 0),
      toScreen(wide, piece_.sink, rows), toScreen(0, piece_.sink, rows)}));
  struct Side {
    int x, z;
  };
  static constexpr std::array<Side, 4> kSides = {{{0, -1}, {1, 0}, {0, 1}, {-1, 0}}};
  // The farthest first; of a column the lowest.
  std::vector<int> order(static_cast<size_t>(wide * rows));
  std::iota(order.begin(), order.end(), 0);
  const auto depth = [&](int n) { return (n % wide) * s + (n / wide) * c; };
  std::stable_sort(order.begin(), order.end(), [&](int a, int b) { return depth(a) < depth(b); });
  for (const int n : order)
    for (int y = 0; y < static_cast<int>(layers_); ++y) {
      const int x = n % wide, z = n / wide;
      const QColor* ink = inkAt(x, y, z);
      if (!ink) continue;
      p.setPen(QPen(ink->darker(150), 0.6));
      for (const Side& side : kSides) {
        const double light = side.x * s + side.z * c;  // Towards the eye.
        if (light <= 0 || inkAt(x + side.x, y, z + side.z)) continue;
        // Its two upright edges.
        const double x0 = x + (side.x > 0), z0 = z + (side.z > 0);
        const double x1 = x0 + (side.z != 0), z1 = z0 + (side.x != 0);
        p.setBrush(ink->darker(side.x * c - side.z * s < 0 ? 118 : 140));
        p.drawPolygon(QPolygonF({toScreen(x0, y, z0), toScreen(x1, y, z1), toScreen(x1, y + 1, z1),
            toScreen(x0, y + 1, z0)}));
      }
      if (inkAt(x, y + 1, z)) continue;
      p.setBrush(*ink);
      p.drawPolygon(QPolygonF({toScreen(x, y + 1, z), toScreen(x + 1, y + 1, z),
          toScreen(x + 1, y + 1, z + 1), toScreen(x, y + 1, z + 1)}));
    }
}

}  // namespace app

#include "moc_piece_grid.cpp"
