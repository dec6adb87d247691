#include "app/edit/transport.h"

#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

namespace app {
namespace {

constexpr int kSpeeds[] = {2, 5, 12, 30};

}  // namespace

Transport::Transport(const QString& name, QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  const auto button = [&](const QString& text, const char* key, const QString& tip, auto act) {
    auto* b = new QPushButton(text);
    b->setObjectName(name + QLatin1String(key));
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    connect(b, &QPushButton::clicked, this, act);
    row->addWidget(b);
    return b;
  };
  play_ = button(tr("Play"), ".play", tr("Space"), [this] { play(!playing()); });
  play_->setFixedWidth(70);
  button(tr("Back"), ".back", tr("One step back (Left)"), [this] { go(step() - 1); });
  button(tr("Step"), ".step", tr("One step on (Right)"), [this] { go(step() + 1); });
  row->addStretch(1);
  speed_ = new Choice;
  speed_->setObjectName(name + QStringLiteral(".speed"));
  speed_->setAccessibleName(tr("Speed"));
  for (const int each : kSpeeds) speed_->addItem(tr("%1 steps a second").arg(each), each);
  speed_->setCurrentIndex(1);
  connect(speed_, &Choice::activated, this,
      [this] { timer_.setInterval(1000 / speed_->currentData().toInt()); });
  row->addWidget(speed_);
  column->addLayout(row);
  scrub_ = new QSlider(Qt::Horizontal);
  scrub_->setObjectName(name + QStringLiteral(".scrub"));
  scrub_->setAccessibleName(tr("Step"));
  scrub_->setRange(0, 0);
  connect(scrub_, &QSlider::valueChanged, this, &Transport::moved);
  column->addWidget(scrub_);
  timer_.setInterval(1000 / kSpeeds[1]);
  connect(&timer_, &QTimer::timeout, this, [this] {
    if (step() == steps()) return play(false);
    go(step() + 1);
  });
}

void Transport::set(int steps, int step) {
  const QSignalBlocker quiet(scrub_);
  scrub_->setRange(0, steps);
  scrub_->setValue(step);
}

void Transport::go(int step) {
  const QSignalBlocker quiet(scrub_);
  scrub_->setValue(std::clamp(step, 0, steps()));
  emit moved(scrub_->value());
}

void Transport::play(bool on) {
  if (on && step() == steps()) go(0);
  on = on && steps() > 0;
  if (on)
    timer_.start();
  else
    timer_.stop();
  play_->setText(on ? tr("Pause") : tr("Play"));
}

bool Transport::press(const QKeyEvent& key) {
  switch (key.key()) {
    case Qt::Key_Space:
      play(!playing());
      return true;
    case Qt::Key_Left:
      go(step() - 1);
      return true;
    case Qt::Key_Right:
      go(step() + 1);
      return true;
    case Qt::Key_Home:
      go(0);
      return true;
    case Qt::Key_End:
      go(steps());
      return true;
    default:
      return false;
  }
}

}  // namespace app

#include "moc_transport.cpp"
