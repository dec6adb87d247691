#include "app/window/drawers.h"

#include <QEvent>
#include <QFrame>
#include <QKeySequence>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <utility>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kRail = 28;

}  // namespace

// ---- the rail's buttons ------------------------------------------------------------------------

RailButton::RailButton(const QString& text, const QString& name, QWidget* parent)
    : QAbstractButton(parent) {
  setText(text);
  setObjectName(name);
  setCheckable(true);
  setFocusPolicy(Qt::TabFocus);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Maximum);
}

QSize RailButton::sizeHint() const {
  return {kRail, QFontMetrics(look::font(look::Type::Body)).horizontalAdvance(text()) + 24};
}

QSize RailButton::minimumSizeHint() const {
  return {kRail, sizeHint().height() - 16};  // In a low window the words stand closer.
}

void RailButton::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), isChecked() ? t.chosen : underMouse() ? t.sheet : t.paper);
  if (isChecked()) p.fillRect(QRect(0, 0, 2, height()), t.madder);
  p.setPen(t.ink);
  QFont font = look::font(look::Type::Body);
  if (isChecked()) font.setWeight(QFont::DemiBold);
  p.setFont(font);
  p.save();
  p.translate(width() / 2.0, height() / 2.0);
  p.rotate(-90);
  p.drawText(QRectF(-height() / 2.0, -width() / 2.0, height(), width()), Qt::AlignCenter, text());
  p.restore();
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

// ---- the drawers -------------------------------------------------------------------------------

Drawers::Drawers(QWidget* over, QWidget* parent) : QWidget(parent), over_(over) {
  setObjectName(QStringLiteral("rail"));
  setFixedWidth(kRail + 1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 8, 1, 8);
  reel_ = new Reel;
  column->addWidget(reel_);
  over_->installEventFilter(this);
}

void Drawers::add(const DrawerDef& def, QWidget* content) {
  const QString name = QLatin1String(def.name), title = tr(def.title);
  if (def.scrolls) {
    auto* page = new QScrollArea;
    page->setWidgetResizable(true);
    page->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    page->setFrameShape(QFrame::NoFrame);
    page->setWidget(content);
    content = page;
  }
  auto* frame = new QFrame(over_);
  frame->setObjectName(QStringLiteral("drawer.") + name);
  frame->setAutoFillBackground(true);
  frame->setProperty("role", "drawer");
  auto* column = new QVBoxLayout(frame);
  column->setContentsMargins(1, 2, 1, 1);
  column->setSpacing(0);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(12, 6, 6, 0);
  auto* label = new QLabel(title);
  label->setFont(look::capitals());
  auto* close = new QToolButton;
  close->setText(QStringLiteral("×"));
  close->setProperty("role", "small");
  close->setObjectName(QStringLiteral("drawer.close.") + name);
  close->setAccessibleName(tr("Close %1").arg(title));
  connect(close, &QToolButton::clicked, this, [this] { open({}); });
  head->addWidget(label);
  head->addStretch(1);
  head->addWidget(close);
  column->addLayout(head);
  column->addWidget(content, 1);
  frame->hide();
  auto* button = new RailButton(title, QStringLiteral("rail.") + name, this);
  button->setToolTip(
      def.key == 0
          ? tr(def.what)
          : tr("%1\n%2 opens and closes it.").arg(tr(def.what), QKeySequence(def.key).toString()));
  connect(button, &QAbstractButton::clicked, this,
      [this, name](bool on) { open(on ? name : QString()); });
  reel_->add(button);
  drawers_.push_back({name, frame, content, button, def.width});
}

void Drawers::toggle(const QString& name) {
  const bool opens = open_ != name;
  open(opens ? name : QString());
  for (const Drawer& drawer : drawers_)
    if (opens && drawer.name == name) {
      // What is inside a page that scrolls takes the keys, not the page.
      auto* page = qobject_cast<QScrollArea*>(drawer.content);
      QWidget* inner = page ? page->widget() : drawer.content;
      if (inner->focusPolicy() == Qt::StrongFocus) inner->setFocus();
    }
}

void Drawers::open(const QString& name) {
  open_ = name;
  for (const Drawer& drawer : drawers_) {
    drawer.button->setChecked(drawer.name == name);
    drawer.frame->setVisible(drawer.name == name);
    if (drawer.name == name) drawer.frame->raise();
  }
  place();
}

void Drawers::setBeside(bool beside) {
  if (std::exchange(beside_, beside) != beside) place();
}

void Drawers::place() {
  int beside = 0;
  for (const Drawer& drawer : drawers_)
    if (beside_ && drawer.name == open_) beside = drawer.width + 2;
  if (QLayout* layout = over_->layout()) layout->setContentsMargins(beside, 0, 0, 0);
  for (const Drawer& drawer : drawers_)
    drawer.frame->setGeometry(0, 0, std::min(drawer.width, over_->width()), over_->height());
}

bool Drawers::eventFilter(QObject* watched, QEvent* e) {
  if (watched == over_ && e->type() == QEvent::Resize) place();
  return QWidget::eventFilter(watched, e);
}

void Drawers::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), look::tokens().paper);
  p.fillRect(QRect(width() - 1, 0, 1, height()), look::tokens().rule);
}

}  // namespace app

#include "moc_drawers.cpp"
