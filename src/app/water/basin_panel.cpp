#include "app/water/basin_panel.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/caption.h"
#include "app/look/look.h"
#include "world/engine.h"

namespace app {
namespace {

using acre::BasinAct;
using acre::BasinStep;

constexpr int kShade = 120;  // Of 255, that flooded bricks cover the ground.

QRectF brickRect(acre::Brick b, const MapGeometry& view) {
  const acre::Cell m = acre::middleOf(b);
  return {view.toScreen({m.x - acre::kBrickWidth / 2, m.z - acre::kBrickLength / 2}),
      view.toScreen({m.x + acre::kBrickWidth / 2, m.z + acre::kBrickLength / 2})};
}

QString hundredths(double v) {
  return look::number(std::round(v * 100) / 100);
}

}  // namespace

// ---- on the map --------------------------------------------------------------------------------

void BasinPicture::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  const auto place = [&](acre::Cell c) { return view.toScreen(c, 0.5, 0.5); };
  const auto shade = [](QColor colour) {
    colour.setAlpha(kShade);
    return colour;
  };
  const size_t lake = replay_->first(BasinAct::Lake);
  p.setPen(Qt::NoPen);
  if (step_ >= lake) {
    p.setBrush(shade(t.verdigris));
    for (const acre::Brick b : replay_->lakeBricks) p.drawRect(brickRect(b, view));
  } else {
    p.setBrush(shade(t.ink));
    for (size_t n = 0; n <= step_; ++n)
      if (replay_->steps[n].act == BasinAct::Flood)
        p.drawRect(brickRect(replay_->steps[n].brick, view));
  }
  for (const bool halo : {true, false})
    for (size_t n = 0; n <= step_; ++n) {
      const BasinStep& s = replay_->steps[n];
      if (s.act < BasinAct::Outlet) continue;
      const double wide = s.act == BasinAct::Course ? 2.5 : 1.5;
      p.setPen(QPen(halo ? t.sheet : t.ink, halo ? wide + 2.5 : wide,
          s.act == BasinAct::Outlet && !halo ? Qt::DashLine : Qt::SolidLine, Qt::RoundCap));
      p.drawLine(place(s.at), place(s.to));
    }
  // What this step is about.
  const BasinStep& now = replay_->steps[step_];
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.madder, 2));
  if (now.act < BasinAct::Outlet)
    p.drawRect(brickRect(now.brick, view));
  else
    p.drawEllipse(place(now.at), 6, 6);
  p.setPen(QPen(t.ink, 1.5));
  p.setBrush(t.sheet);
  p.drawEllipse(place(replay_->bottom), 3, 3);
}

QString BasinPicture::at(QPointF place, const MapGeometry& view) const {
  for (size_t n = step_ + 1; n-- > 0;) {
    const BasinStep& s = replay_->steps[n];
    if ((view.toScreen(s.at, 0.5, 0.5) - place).manhattanLength() <= 9)
      return QObject::tr("Step %1: %2").arg(n + 1).arg(QString::fromStdString(replay_->told(n)));
  }
  return {};
}

// ---- the panel ---------------------------------------------------------------------------------

BasinPanel::BasinPanel(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), courier_(std::make_shared<Courier<BasinPanel>>(this)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  auto* here = new QPushButton(tr("The hollow below the viewpoint"));
  here->setObjectName(QStringLiteral("basin.here"));
  here->setToolTip(tr("Follows the lowest ground down from there, to where no neighbour is lower"));
  connect(here, &QPushButton::clicked, this, &BasinPanel::recordRequested);
  auto* top = new QHBoxLayout;
  top->addWidget(here);
  top->addStretch(1);
  column->addLayout(top);
  headline_ = new QLabel;
  headline_->setObjectName(QStringLiteral("basin.headline"));
  headline_->setWordWrap(true);
  column->addWidget(headline_);
  body_ = new QWidget;
  auto* inner = new QVBoxLayout(body_);
  inner->setContentsMargins(0, 0, 0, 0);
  inner->setSpacing(8);
  transport_ = new Transport(QStringLiteral("basin"));
  connect(transport_, &Transport::moved, this, &BasinPanel::showStep);
  inner->addWidget(transport_);
  figures_ = new QLabel;
  figures_->setObjectName(QStringLiteral("basin.figures"));
  figures_->setWordWrap(true);
  figures_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  inner->addWidget(figures_);
  inner->addWidget(look::caption(
      tr("On the map flooded bricks are dark and those of the lake blue-green; the way out is "
         "a broken line, the river a full one, and a ring marks this step."),
      true));
  column->addWidget(body_);
  body_->hide();
}

BasinPanel::~BasinPanel() {
  courier_->close();
  stop_.request_stop();
}

void BasinPanel::showEvent(QShowEvent*) {
  if (replay_) showStep();
}

void BasinPanel::hideEvent(QHideEvent*) {
  transport_->play(false);
  emit shown(nullptr);
}

void BasinPanel::worldChanged() {
  if (document_.world() == world_) return;
  if (place_)
    record(*place_);
  else
    emit recordRequested();
}

void BasinPanel::record(acre::Cell near) {
  stop_.request_stop();
  stop_ = {};
  transport_->play(false);
  place_ = near;
  world_ = document_.world();
  recording_ = true;
  headline_->setText(tr("Looking for the hollow below x %1 z %2…")
                         .arg(look::wholeNumber(near.x), look::wholeNumber(near.z)));
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = world_, near, number = ++request_, stop = stop_.get_token()] {
        auto made = acre::replayBasin(*world, near, stop);
        courier->deliver([made = std::move(made), number](BasinPanel& self) {
          if (number != self.request_) return;
          self.recording_ = false;
          self.replay_.reset();
          if (made) self.replay_ = std::make_shared<const acre::BasinReplay>(*made);
          self.body_->setVisible(made.ok());
          if (!made) {
            self.headline_->setText(made.error().code == acre::Error::Code::InvalidInput
                                        ? tr("Below the viewpoint the ground leads down to the "
                                             "sea, and no hollow lies on the way. Move it, by "
                                             "drag or arrow keys, to ground above a lake.")
                                        : QString::fromStdString(made.error().text()));
            emit self.shown(nullptr);
            return;
          }
          const acre::BasinReplay& r = *self.replay_;
          self.headline_->setText(
              tr("Hollow %1, lowest at x %2 z %3: ground %4, spills at %5, %6")
                  .arg(QString::fromStdString(r.name()), look::wholeNumber(r.bottom.x),
                      look::wholeNumber(r.bottom.z), hundredths(r.low), hundredths(r.spill),
                      !r.lake    ? tr("holds no lake")
                      : r.closed ? tr("holds a closed lake")
                                 : tr("holds a lake")));
          self.transport_->set(static_cast<int>(r.steps.size()) - 1, 0);
          self.showStep();
        });
      });
}

void BasinPanel::showStep() {
  if (!replay_) return;
  const auto step = static_cast<size_t>(transport_->step());
  static const QString kActs[acre::kBasinActs] = {
      tr("Flood"), tr("Spill"), tr("Lake"), tr("Outlet"), tr("Capture"), tr("Course")};
  figures_->setText(tr("%1, step %2 of %3. %4")
                        .arg(kActs[static_cast<size_t>(replay_->steps[step].act)])
                        .arg(step + 1)
                        .arg(replay_->steps.size())
                        .arg(QString::fromStdString(replay_->told(step))));
  if (isVisible()) emit shown(std::make_shared<BasinPicture>(replay_, step));
}

}  // namespace app

#include "moc_basin_panel.cpp"
