#include "app/window/reel.h"

#include <QEvent>
#include <QScrollBar>

namespace app {
namespace {

constexpr int kTurn = 40;  // Pixels.

QToolButton* endButton(Qt::ArrowType arrow, const QString& name, const QString& says) {
  auto* button = new QToolButton;
  button->setArrowType(arrow);
  button->setObjectName(name);
  button->setAccessibleName(says);
  button->setToolTip(says);
  button->setAutoRepeat(true);
  button->setFocusPolicy(Qt::NoFocus);
  button->setProperty("role", "reel");
  button->setFixedHeight(16);
  button->hide();
  return button;
}

}  // namespace

Reel::Reel(QWidget* parent) : QWidget(parent) {
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  all->setSpacing(2);
  up_ = endButton(Qt::UpArrow, QStringLiteral("reel.up"), tr("More above"));
  down_ = endButton(Qt::DownArrow, QStringLiteral("reel.down"), tr("More below"));
  page_ = new QScrollArea;
  page_->setWidgetResizable(true);
  page_->setFrameShape(QFrame::NoFrame);
  page_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  page_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  page_->setFocusPolicy(Qt::NoFocus);
  auto* inner = new QWidget;
  column_ = new QVBoxLayout(inner);
  column_->setContentsMargins(0, 0, 0, 0);
  column_->setSpacing(4);
  column_->addStretch(1);
  page_->setWidget(inner);
  page_->viewport()->setAutoFillBackground(false);
  inner->setAutoFillBackground(false);  // setWidget() switches it on.
  all->addWidget(up_);
  all->addWidget(page_, 1);
  all->addWidget(down_);
  connect(up_, &QToolButton::clicked, this, [this] { turn(-kTurn); });
  connect(down_, &QToolButton::clicked, this, [this] { turn(kTurn); });
  connect(page_->verticalScrollBar(), &QScrollBar::rangeChanged, this, &Reel::follow);
  connect(page_->verticalScrollBar(), &QScrollBar::valueChanged, this, &Reel::follow);
}

void Reel::add(QWidget* button) {
  column_->insertWidget(column_->count() - 1, button);
  button->installEventFilter(this);
}

bool Reel::overflows() const {
  return page_->verticalScrollBar()->maximum() > 0;
}

void Reel::turn(int by) {
  page_->verticalScrollBar()->setValue(page_->verticalScrollBar()->value() + by);
}

/// The end buttons show only where there is more that way. Both or none: one that came and went
/// would move the words under the pointer.
void Reel::follow() {
  const QScrollBar* bar = page_->verticalScrollBar();
  const bool all = page_->widget()->minimumSizeHint().height() <= height();
  up_->setVisible(!all);
  down_->setVisible(!all);
  up_->setEnabled(bar->value() > bar->minimum());
  down_->setEnabled(bar->value() < bar->maximum());
}

void Reel::resizeEvent(QResizeEvent* e) {
  QWidget::resizeEvent(e);
  follow();
}

bool Reel::eventFilter(QObject* watched, QEvent* e) {
  if (e->type() == QEvent::FocusIn) page_->ensureWidgetVisible(static_cast<QWidget*>(watched));
  return QWidget::eventFilter(watched, e);
}

}  // namespace app

#include "moc_reel.cpp"
