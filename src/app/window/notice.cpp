#include "app/window/notice.h"

#include <QHBoxLayout>
#include <QPainter>

#include "app/look/look.h"

namespace app {
WarningMark::WarningMark(QWidget* parent) : QWidget(parent) {
  setFixedSize(14, 18);
}

void WarningMark::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(look::tokens().ochre, 2.5, Qt::SolidLine, Qt::FlatCap));
  p.drawLine(QPointF(7, 2), QPointF(7, 11));
  p.drawLine(QPointF(7, 13.5), QPointF(7, 16));
}

Notice::Notice(QWidget* parent) : QWidget(parent) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 4, 12, 4);
  mark_ = new WarningMark;
  row->addWidget(mark_, 0, Qt::AlignTop);
  words_ = new QLabel;
  words_->setObjectName(QStringLiteral("notice"));
  words_->setWordWrap(true);
  words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  row->addWidget(words_, 1);
  hide();
}

void Notice::warn(const QString& sentence) {
  mark_->show();
  words_->setText(sentence);
  show();
}

void Notice::tell(const QString& sentence) {
  warn(sentence);
  mark_->hide();
}

void Notice::clear() {
  hide();
  words_->clear();
}

}  // namespace app
