#include "app/edit/number_field.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QRegularExpression>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/edit/arithmetic.h"
#include "app/look/look.h"

namespace app {
namespace {

constexpr int kRestoreWidth = 20;

}  // namespace

NumberField::NumberField(const NumberSpec& spec, const QString& name, QWidget* parent)
    : QLineEdit(parent), spec_(spec) {
  setObjectName(name);
  setAlignment(Qt::AlignRight);
  setFixedHeight(look::kTableControl);
  setCursor(Qt::SizeHorCursor);
  setTextMargins(0, 0, 0, 0);
  connect(this, &QLineEdit::editingFinished, this, &NumberField::commitText);
  show_();
}

void NumberField::showUnit() {
  spec_.bare = false;
  show_();
}

void NumberField::setSpec(const NumberSpec& spec) {
  spec_ = spec;
}

void NumberField::setValue(double value) {
  value_ = value;
  if (!hasFocus() || !isModified()) show_();
}

void NumberField::setReference(double value) {
  reference_ = value;
  setTextMargins(0, 0, changed() ? kRestoreWidth - 4 : 0, 0);
  update();
}

void NumberField::show_() {
  const QString unit =
      spec_.unit.isEmpty() || spec_.bare ? QString() : QStringLiteral(" ") + spec_.unit;
  setText(look::number(value_) + unit);
  setModified(false);
  setCursorPosition(0);
  setTextMargins(0, 0, changed() ? kRestoreWidth - 4 : 0, 0);
  update();
}

double NumberField::fitted(double value) const {
  double v = std::round(value);
  // A dragged number stays readable: four digits, or tenths of a step.
  if (!spec_.whole && spec_.logarithmic)
    v = QString::number(value, 'g', 4).toDouble();
  else if (!spec_.whole)
    v = std::round(value / spec_.step * 10) / std::round(10 / spec_.step);
  return std::clamp(v, spec_.range.low, spec_.range.high);
}

double NumberField::stepped(double from, double steps) const {
  if (spec_.logarithmic) {
    const double next = fitted(from * std::pow(1.01, steps * spec_.step));
    if (!spec_.whole || next != from || steps == 0) return next;
    return fitted(from + (steps > 0 ? 1 : -1));
  }
  const double way = steps * spec_.step;
  if (!spec_.whole) return fitted(from + way);
  return fitted(from + (std::abs(way) < 1 && way != 0 ? (way > 0 ? 1 : -1) : std::round(way)));
}

void NumberField::choose(double value, bool during) {
  if (value == value_) return;
  value_ = value;
  show_();
  emit edited(value, during);
}

QString NumberField::help() const {
  if (!spec_.feature || !(value_ > 0)) return toolTip();
  return toolTip() + tr("\nThat is %1 features per cell; “0.02 per cell” is understood too.")
                         .arg(look::number(QString::number(1 / value_, 'g', 4).toDouble()));
}

bool NumberField::event(QEvent* e) {
  if (e->type() != QEvent::ToolTip) return QLineEdit::event(e);
  QToolTip::showText(static_cast<QHelpEvent*>(e)->globalPos(), help(), this);
  return true;
}

/// What was typed; a frequency stands for the width whose features are that many a cell.
std::optional<double> NumberField::typed() const {
  static const QRegularExpression kPerCell(
      QStringLiteral("^(.*?)\\s*(?:per|/)\\s*cell$"), QRegularExpression::CaseInsensitiveOption);
  const auto frequency = kPerCell.match(text().trimmed());
  if (!spec_.feature || !frequency.hasMatch()) return evaluate(text());
  const auto value = evaluate(frequency.captured(1));
  return value && *value > 0 ? std::optional(1 / *value) : std::nullopt;
}

void NumberField::commitText() {
  if (!isModified()) return;
  const auto typed = this->typed();
  const QString accepted =
      tr("accepted: %1 to %2").arg(look::number(spec_.range.low), look::number(spec_.range.high));
  if (!typed) {
    const QString was = text();
    show_();
    emit refused(tr("“%1” is not a number; %2").arg(was.left(40), accepted));
    return;
  }
  if (!spec_.range.holds(*typed) || (spec_.whole && std::round(*typed) != *typed)) {
    show_();
    emit refused(spec_.whole && std::round(*typed) != *typed
                     ? tr("%1 is not a whole number; %2").arg(look::number(*typed), accepted)
                     : tr("%1 is out of range; %2").arg(look::number(*typed), accepted));
    return;
  }
  setModified(false);
  if (*typed == value_) return show_();
  choose(*typed, false);
  emit gestureEnded();
}

void NumberField::keyPressEvent(QKeyEvent* e) {
  const bool up = e->key() == Qt::Key_Up;
  if (up || e->key() == Qt::Key_Down) {
    commitText();
    const double factor = (e->modifiers() & Qt::ShiftModifier)     ? 10
                          : (e->modifiers() & Qt::ControlModifier) ? 0.1
                                                                   : 1;
    choose(stepped(value_, up ? factor : -factor), true);
    selectAll();
    return;
  }
  if (e->key() == Qt::Key_Escape) {
    if (dragging_) {
      choose(dragFrom_, true);
      dragging_ = pressed_ = false;
    }
    setModified(false);
    show_();
    emit gestureEnded();
    emit left();
    return;
  }
  if (e->key() == Qt::Key_Backspace && (e->modifiers() & Qt::ControlModifier)) {
    choose(reference_, false);
    emit gestureEnded();
    return;
  }
  if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
    commitText();
    selectAll();
    return;
  }
  QLineEdit::keyPressEvent(e);
}

QRect NumberField::restoreRect() const {
  return {width() - kRestoreWidth, 0, kRestoreWidth, height()};
}

void NumberField::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return QLineEdit::mousePressEvent(e);
  if (changed() && restoreRect().contains(e->position().toPoint())) {
    choose(reference_, false);
    emit gestureEnded();
    return;
  }
  pressed_ = true;
  dragging_ = false;
  pressAt_ = e->position();
  dragFrom_ = value_;
  setFocus(Qt::MouseFocusReason);
}

void NumberField::mouseMoveEvent(QMouseEvent* e) {
  if (!pressed_) return;
  const double way = e->position().x() - pressAt_.x();
  if (!dragging_ && std::abs(way) < look::kDragThreshold) return;
  if (!dragging_) {
    dragging_ = true;
    commitText();
    dragFrom_ = value_;
  }
  const double fine = (e->modifiers() & Qt::ShiftModifier) ? 0.1 : 1;
  choose(stepped(dragFrom_, way / 2 * fine), true);
}

void NumberField::mouseReleaseEvent(QMouseEvent* e) {
  const bool dragged = std::exchange(dragging_, false);
  if (!std::exchange(pressed_, false)) return QLineEdit::mouseReleaseEvent(e);
  if (dragged)
    emit gestureEnded();
  else
    selectAll();
}

void NumberField::wheelEvent(QWheelEvent* e) {
  if (!(e->modifiers() & Qt::AltModifier)) return e->ignore();  // The column scrolls.
  // With Alt held some systems report the wheel sideways.
  const int delta = e->angleDelta().y() ? e->angleDelta().y() : e->angleDelta().x();
  choose(stepped(value_, delta > 0 ? 1 : -1), true);
  e->accept();
}

void NumberField::focusOutEvent(QFocusEvent* e) {
  QLineEdit::focusOutEvent(e);
  show_();
  emit gestureEnded();
}

void NumberField::paintEvent(QPaintEvent* e) {
  QLineEdit::paintEvent(e);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const look::Tokens& t = look::tokens();
  // Three strokes say that the field can be dragged.
  p.setPen(QPen(isEnabled() ? t.edge : t.rule, 1));
  for (int i = 0; i < 3; ++i) {
    const double x = 6.5 + 3 * i;
    p.drawLine(QPointF(x, height() / 2.0 - 4), QPointF(x, height() / 2.0 + 4));
  }
  if (!changed() || !isEnabled()) return;
  const QPointF c = QRectF(restoreRect()).center();
  p.setPen(QPen(t.ink, 1.5));
  p.drawArc(QRectF(c.x() - 4.5, c.y() - 4.5, 9, 9), -60 * 16, 270 * 16);
  QPainterPath tip;
  tip.moveTo(c + QPointF(-7.5, -1));
  tip.lineTo(c + QPointF(-1.5, -1));
  tip.lineTo(c + QPointF(-4.8, 3));
  tip.closeSubpath();
  p.fillPath(tip, t.ink);
}

}  // namespace app

#include "moc_number_field.cpp"
