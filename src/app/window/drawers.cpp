#include "app/window/drawers.h"

#include <QEvent>
#include <QFrame>
#include <QLabel>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kRail = 28;
constexpr int kLegendRow = 20;

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

// ---- the legend --------------------------------------------------------------------------------

LegendCard::LegendCard(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("legend"));
  setAccessibleName(tr("Legend"));
}

void LegendCard::setEntries(std::vector<acre::LegendEntry> entries) {
  entries_ = std::move(entries);
  QStringList words;
  for (const acre::LegendEntry& entry : entries_) words << QString::fromStdString(entry.text);
  setAccessibleDescription(words.join(QStringLiteral("; ")));
  setMinimumHeight(sizeHint().height());
  update();
}

QSize LegendCard::sizeHint() const {
  return {260, static_cast<int>(entries_.size()) * kLegendRow + 16};
}

void LegendCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.setFont(look::font(look::Type::Body));
  int y = 8;
  for (const acre::LegendEntry& entry : entries_) {
    const bool swatch = entry.hatched || entry.argb != acre::kNoSwatch;
    if (swatch) {
      const QRect box(12, y + 3, 20, 13);
      p.fillRect(box, entry.hatched ? QBrush(look::hatch()) : QBrush(QColor::fromRgb(entry.argb)));
      p.setPen(t.edge);
      p.drawRect(box.adjusted(0, 0, -1, -1));
    }
    p.setPen(swatch ? t.ink : t.soft);
    const int x = swatch ? 40 : 12;
    p.drawText(QRect(x, y, width() - x - 8, kLegendRow), Qt::AlignVCenter,
        p.fontMetrics().elidedText(
            QString::fromStdString(entry.text), Qt::ElideRight, width() - x - 8));
    y += kLegendRow;
  }
}

// ---- the drawers -------------------------------------------------------------------------------

Drawers::Drawers(QWidget* over, QWidget* parent) : QWidget(parent), over_(over) {
  setObjectName(QStringLiteral("rail"));
  setFixedWidth(kRail + 1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 8, 1, 8);
  column->setSpacing(4);
  column->addStretch(1);
  over_->installEventFilter(this);
}

void Drawers::add(const QString& title, const QString& name, QWidget* content, int width) {
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
  button->setToolTip(tr("Opens and closes %1.").arg(title));
  connect(button, &QAbstractButton::clicked, this,
      [this, name](bool on) { open(on ? name : QString()); });
  auto* rail = static_cast<QVBoxLayout*>(layout());
  rail->insertWidget(rail->count() - 1, button);
  drawers_.push_back({name, frame, content, button, width});
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

void Drawers::place() {
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
