#include "app/edit/picture_button.h"

#include <QPainter>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kRim = 3;

}  // namespace

PictureButton::PictureButton(
    const QString& text, const QString& name, QSize picture, QWidget* parent)
    : QAbstractButton(parent), size_(picture) {
  setText(text);
  setObjectName(name);
  setAccessibleName(text);
  setFocusPolicy(Qt::TabFocus);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

void PictureButton::setPicture(const QImage& picture) {
  picture_ = picture;
  update();
}

QSize PictureButton::sizeHint() const {
  const int words = QFontMetrics(look::font(look::Type::Caption)).height() + 4;
  return {size_.width() + 2 * kRim, size_.height() + 2 * kRim + words};
}

void PictureButton::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  const bool lit = isChecked() || isDown();
  p.fillRect(rect(), lit ? t.chosen : underMouse() ? t.sheet : t.paper);
  const QRect picture(QPoint((width() - size_.width()) / 2, kRim), size_);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  if (picture_.isNull())
    p.fillRect(picture, t.sheet);
  else
    p.drawImage(picture, picture_);
  p.setPen(lit ? t.ink : t.edge);
  p.drawRect(picture.adjusted(0, 0, -1, -1));
  QFont font = look::font(look::Type::Caption);
  if (isChecked()) font.setWeight(QFont::DemiBold);
  p.setFont(font);
  p.setPen(t.ink);
  p.drawText(QRect(0, picture.bottom() + 2, width(), height() - picture.bottom() - 3),
      Qt::AlignCenter, p.fontMetrics().elidedText(text(), Qt::ElideRight, width() - 2));
  if (isChecked()) p.fillRect(QRect(0, 0, width(), 2), t.madder);
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace app

#include "moc_picture_button.cpp"
