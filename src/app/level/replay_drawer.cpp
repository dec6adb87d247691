#include "app/level/replay_drawer.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "cave/open_spaces.h"
#include "world/engine.h"

namespace app {
namespace {

/// Bytes that a recording may take, and that it reserves at once; longer ones end there, and where
/// the limit of memory has no more, and say so.
constexpr uint64_t kMostBytes = uint64_t{192} << 20;
constexpr uint64_t kBytesAtOnce = uint64_t{2} << 20;
constexpr int kSpeeds[] = {2, 5, 12, 30};

/// Solid cells dark, open ones as the sheet; those that the step filled darker still, those that it
/// opened in the colour of work.
std::shared_ptr<const SpacesPicture> pictureOf(
    const acre::BitGrid& before, const acre::BitGrid& plane, acre::Rect area) {
  auto out = std::make_shared<SpacesPicture>();
  out->area = area;
  // Of large floors every second cell, or fourth: no screen shows more.
  constexpr int32_t kLongestSide = 2048;
  const int32_t step = (std::max(plane.width(), plane.length()) + kLongestSide - 1) / kLongestSide;
  out->image = QImage(plane.width() / step, plane.length() / step, QImage::Format_ARGB32);
  const look::Tokens& t = look::tokens();
  const auto half = [](const QColor& a, const QColor& b) {
    return qRgb((a.red() + b.red()) / 2, (a.green() + b.green()) / 2, (a.blue() + b.blue()) / 2);
  };
  const QRgb colours[2][2] = {
      {t.sheet.rgba(), half(t.verdigris, t.sheet)}, {t.soft.rgba(), t.ink.rgba()}};
  for (int32_t z = 0; z < out->image.height(); ++z) {
    auto* row = reinterpret_cast<QRgb*>(out->image.scanLine(z));
    for (int32_t x = 0; x < out->image.width(); ++x) {
      const bool solid = plane.at(x * step, z * step);
      row[x] = colours[solid][solid != before.at(x * step, z * step)];
    }
  }
  return out;
}

}  // namespace

// ---- plots -------------------------------------------------------------------------------------

ReplayPlot::ReplayPlot(const QString& title, const QString& name, QWidget* parent)
    : QWidget(parent), title_(title) {
  setObjectName(name);
  setAccessibleName(title);
  setFixedHeight(64);
  setCursor(Qt::PointingHandCursor);
  setToolTip(tr("A click goes to that step."));
}

void ReplayPlot::set(std::vector<double> values, std::function<QString(double)> format) {
  values_ = std::move(values);
  format_ = std::move(format);
  step_ = 0;
  update();
}

void ReplayPlot::setMarks(std::vector<int> steps) {
  marks_ = std::move(steps);
  update();
}

void ReplayPlot::setStep(int step) {
  step_ = step;
  update();
}

QRectF ReplayPlot::plotRect() const {
  return QRectF(rect()).adjusted(4, 20, -6, -4);
}

int ReplayPlot::stepAt(double x) const {
  const QRectF area = plotRect();
  const int last = static_cast<int>(values_.size()) - 1;
  return std::clamp(
      static_cast<int>(std::lround((x - area.left()) / area.width() * last)), 0, std::max(0, last));
}

void ReplayPlot::mousePressEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton && !values_.empty()) emit chosen(stepAt(e->position().x()));
}

void ReplayPlot::mouseMoveEvent(QMouseEvent* e) {
  if (e->buttons() & Qt::LeftButton && !values_.empty()) emit chosen(stepAt(e->position().x()));
}

void ReplayPlot::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const look::Tokens& t = look::tokens();
  const QRectF area = plotRect();
  p.fillRect(area, t.sheet);
  p.setPen(QPen(t.rule, 1));
  p.drawRect(area);
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  p.drawText(QRectF(4, 2, width() - 10, 16), Qt::AlignLeft | Qt::AlignVCenter, title_);
  if (values_.empty()) return;
  const auto ends = std::minmax_element(values_.begin(), values_.end());
  const double low = *ends.first, high = *ends.second;
  p.drawText(QRectF(4, 2, width() - 10, 16), Qt::AlignRight | Qt::AlignVCenter,
      low == high ? tr("always %1").arg(format_(low))
                  : tr("%1 to %2").arg(format_(low), format_(high)));
  const double last = std::max<double>(1, static_cast<double>(values_.size()) - 1);
  const double span = high > low ? high - low : 1;
  const auto place = [&](size_t k) {
    const double share = high > low ? (values_[k] - low) / span : 0.5;
    return QPointF(area.left() + area.width() * static_cast<double>(k) / last,
        area.bottom() - 4 - (area.height() - 8) * share);
  };
  p.setPen(QPen(t.rule, 1));
  for (const int mark : marks_) {
    const double x = place(static_cast<size_t>(mark)).x();
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
  }
  QPainterPath line(place(0));
  for (size_t k = 1; k < values_.size(); ++k) line.lineTo(place(k));
  p.setPen(QPen(t.ink, 1.5));
  p.drawPath(line);
  if (values_.size() <= 40) {
    p.setBrush(t.ink);
    p.setPen(Qt::NoPen);
    for (size_t k = 0; k < values_.size(); ++k) p.drawEllipse(place(k), 2, 2);
  }
  const QPointF now = place(static_cast<size_t>(step_));
  p.setPen(QPen(t.madder, 1.5));
  p.drawLine(QPointF(now.x(), area.top() + 1), QPointF(now.x(), area.bottom()));
  p.setBrush(t.sheet);
  p.drawEllipse(now, 4, 4);
}

// ---- the drawer --------------------------------------------------------------------------------

ReplayDrawer::ReplayDrawer(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      courier_(std::make_shared<Courier<ReplayDrawer>>(this)) {
  setFocusPolicy(Qt::StrongFocus);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 8, 16, 12);
  column->setSpacing(8);
  headline_ = new QLabel;
  headline_->setObjectName(QStringLiteral("replay.headline"));
  headline_->setWordWrap(true);
  column->addWidget(headline_);
  body_ = new QWidget;
  auto* inner = new QVBoxLayout(body_);
  inner->setContentsMargins(0, 0, 0, 0);
  inner->setSpacing(8);
  process_ = new Choice;
  process_->setObjectName(QStringLiteral("replay.process"));
  process_->setAccessibleName(tr("Process to be shown"));
  connect(process_, &Choice::activated, this, &ReplayDrawer::record);
  inner->addWidget(process_);

  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  const auto button = [&](const QString& text, const char* name, const QString& tip, auto act) {
    auto* b = new QPushButton(text);
    b->setObjectName(QStringLiteral("replay.") + QLatin1String(name));
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    connect(b, &QPushButton::clicked, this, act);
    row->addWidget(b);
    return b;
  };
  play_ = button(tr("Play"), "play", tr("Space"), [this] { play(!timer_.isActive()); });
  play_->setFixedWidth(70);
  button(tr("Back"), "back", tr("One step back (Left)"), [this] { go(step_ - 1); });
  button(tr("Step"), "step", tr("One step on (Right)"), [this] { go(step_ + 1); });
  row->addStretch(1);
  speed_ = new Choice;
  speed_->setObjectName(QStringLiteral("replay.speed"));
  speed_->setAccessibleName(tr("Speed"));
  for (const int each : kSpeeds) speed_->addItem(tr("%1 steps a second").arg(each), each);
  speed_->setCurrentIndex(1);
  connect(speed_, &Choice::activated, this,
      [this] { timer_.setInterval(1000 / speed_->currentData().toInt()); });
  row->addWidget(speed_);
  inner->addLayout(row);
  scrub_ = new QSlider(Qt::Horizontal);
  scrub_->setObjectName(QStringLiteral("replay.scrub"));
  scrub_->setAccessibleName(tr("Step"));
  connect(scrub_, &QSlider::valueChanged, this, &ReplayDrawer::go);
  inner->addWidget(scrub_);
  figures_ = new QLabel;
  figures_->setObjectName(QStringLiteral("replay.figures"));
  figures_->setWordWrap(true);
  inner->addWidget(figures_);
  auto* key =
      new QLabel(tr("On the map solid cells are dark; the darkest were filled by this step, "
                    "those in blue-green opened by it."));
  key->setFont(look::font(look::Type::Caption));
  key->setProperty("role", "caption");
  key->setWordWrap(true);
  inner->addWidget(key);
  const auto plot = [&](const QString& title, const char* name) {
    auto* one = new ReplayPlot(title, QStringLiteral("replay.plot.") + QLatin1String(name));
    connect(one, &ReplayPlot::chosen, this, &ReplayDrawer::go);
    inner->addWidget(one);
    return one;
  };
  open_ = plot(tr("Share of cells that are open"), "open");
  pieces_ = plot(tr("Pieces: open spaces that do not connect"), "pieces");
  outline_ = plot(tr("Outline: sides between open and solid"), "outline");
  pointer_ = new QLabel;
  pointer_->setObjectName(QStringLiteral("replay.pointer"));
  pointer_->setWordWrap(true);
  inner->addWidget(pointer_);
  auto* last = new QHBoxLayout;
  reverse_ = new QPushButton(tr("Run in reversed cell order"));
  reverse_->setObjectName(QStringLiteral("replay.reverse"));
  reverse_->setToolTip(
      tr("Makes every step of the process again, from the last cell to the first.\n"
         "A step that reads what it has written itself would come out otherwise."));
  connect(reverse_, &QPushButton::clicked, this, &ReplayDrawer::reverse);
  last->addWidget(reverse_);
  last->addStretch(1);
  inner->addLayout(last);
  equal_ = new QLabel;
  equal_->setObjectName(QStringLiteral("replay.equal"));
  equal_->setWordWrap(true);
  inner->addWidget(equal_);
  column->addWidget(body_);
  column->addStretch(1);
  timer_.setInterval(1000 / kSpeeds[1]);
  connect(&timer_, &QTimer::timeout, this, [this] {
    if (step_ + 1 > steps()) return play(false);
    go(step_ + 1);
  });
}

ReplayDrawer::~ReplayDrawer() {
  courier_->close();
  stop_.request_stop();
}

int ReplayDrawer::steps() const {
  return replay_ ? static_cast<int>(replay_->steps()) : 0;
}

std::string ReplayDrawer::chosenId() const {
  return process_->currentData().toString().toStdString();
}

void ReplayDrawer::listProcesses() {
  const std::string chosen = chosenId();
  const QSignalBlocker quiet(process_);
  process_->clear();
  process_->addItem(tr("All processes, one after the other"), QString());
  for (const acre::LevelProcess& p : document_.recipe().level->processes)
    if (p.on) process_->addItem(QString::fromStdString(p.name), QString::fromStdString(p.id));
  process_->setCurrentIndex(std::max(0, process_->findData(QString::fromStdString(chosen))));
}

void ReplayDrawer::choose(const QString& process) {
  listProcesses();
  process_->setCurrentIndex(std::max(0, process_->findData(process)));
  if (isVisible()) record();
}

void ReplayDrawer::refresh() {
  if (!isVisible()) return;
  if (document_.world() != world_) record();
}

void ReplayDrawer::showEvent(QShowEvent*) {
  emit shownChanged(true);
  if (document_.world() != world_ || chosenId() != recorded_)
    record();
  else
    showStep();
}

void ReplayDrawer::hideEvent(QHideEvent*) {
  emit shownChanged(false);
  play(false);
  emit pictureChanged(nullptr);
}

void ReplayDrawer::record() {
  stop_.request_stop();
  stop_ = {};
  play(false);
  const int kept = world_ && replay_ && step_ < steps() ? step_ : -1;
  const bool same = chosenId() == recorded_;
  world_ = document_.world();
  ++request_;
  equal_->clear();
  const bool level = planOf(*world_).level() != nullptr;
  body_->setVisible(level);
  if (!level) {
    replay_.reset();
    shown_.reset();
    recording_ = false;
    emit pictureChanged(nullptr);
    return headline_->setText(
        planOf(*world_).recipe().frame.kind == acre::WorldKind::Level
            ? tr("The level is switched off.")
            : tr("Only the floors of levels are made step by step. Choose the kind “Level” in the "
                 "Frame, or open the demo underkiln."));
  }
  listProcesses();
  recorded_ = chosenId();
  recording_ = true;
  headline_->setText(tr("Recording…"));
  document_.engine().executor().submit(acre::Priority::Statistics,
      [courier = courier_, world = world_, id = recorded_, number = request_,
          restore = same ? kept : -1, &budget = document_.engine().budget(),
          stop = stop_.get_token()] {
        const acre::Recipe& recipe = planOf(*world).recipe();
        const auto& processes = recipe.level->processes;
        std::shared_ptr<acre::Replay> replay;
        const auto recorded = std::make_shared<Recorded>();
        recorded->world = world;
        std::vector<size_t> by;
        bool whole = true;
        uint64_t reserved = 0;
        const auto room = [&] {
          while (reserved < replay->bytes() + kBytesAtOnce / 2) {
            auto more = reserved < kMostBytes ? budget.reserve(kBytesAtOnce) : std::nullopt;
            if (!more) return false;
            reserved += kBytesAtOnce;
            recorded->room.push_back(std::move(*more));
          }
          return true;
        };
        QString fault;
        const auto maker = acre::Engine::levelMaker(recipe, planOf(*world).kernels());
        if (!maker) {
          fault = QString::fromStdString(maker.error().text());
        } else {
          const acre::Rect& bounds = planOf(*world).bounds();
          acre::BitGrid before = acre::solidPlane(
              static_cast<int32_t>(bounds.width), static_cast<int32_t>(bounds.length));
          const auto made = (*maker)->make(
              recipe.level->floor,
              [&](size_t process, const acre::BitGrid& plane) {
                if (!id.empty() && processes[process].id != id) {
                  if (!replay) before = plane;
                  return;
                }
                if (!replay) replay = std::make_shared<acre::Replay>(before);
                whole = whole && room();
                if (!whole) return;
                replay->record(plane);
                by.push_back(process);
              },
              stop);
          if (!made) fault = QString::fromStdString(made.error().text());
        }
        courier->deliver([replay, recorded, by = std::move(by), fault, whole, number, restore](
                             ReplayDrawer& self) {
          if (number != self.request_) return;
          self.recording_ = false;
          self.shown_ = recorded;
          self.replay_ = replay;
          self.processes_ = by;
          if (!replay)
            return self.headline_->setText(
                fault.isEmpty() ? tr("This process takes no step on this floor.") : fault);
          const int steps = self.steps();
          self.headline_->setText(
              tr("Floor %1, %2 step%3, kept in %4 KiB%5")
                  .arg(self.document_.recipe().level->floor)
                  .arg(steps)
                  .arg(steps == 1 ? QString() : tr("s"))
                  .arg(look::wholeNumber(static_cast<qint64>(replay->bytes()) / 1024 + 1),
                      whole ? QString() : tr("; the limit ends it here")));
          const auto values = [&](auto of) {
            std::vector<double> out;
            for (int k = 0; k <= steps; ++k)
              out.push_back(static_cast<double>(of(replay->figures(static_cast<size_t>(k)))));
            return out;
          };
          const auto count = [](double v) { return look::wholeNumber(std::llround(v)); };
          self.open_->set(values([](const auto& f) { return f.open; }), look::percent);
          self.pieces_->set(values([](const auto& f) { return f.pieces; }), count);
          self.outline_->set(values([](const auto& f) { return f.outline; }), count);
          std::vector<int> marks;
          for (size_t k = 1; k < by.size(); ++k)
            if (by[k] != by[k - 1]) marks.push_back(static_cast<int>(k));
          for (ReplayPlot* plot : {self.open_, self.pieces_, self.outline_}) plot->setMarks(marks);
          const QSignalBlocker quiet(self.scrub_);
          self.scrub_->setRange(0, steps);
          self.step_ = restore >= 0 && restore <= steps ? restore : steps;
          self.showStep();
        });
      });
}

void ReplayDrawer::go(int step) {
  if (!replay_) return;
  step_ = std::clamp(step, 0, steps());
  showStep();
}

void ReplayDrawer::play(bool on) {
  if (on && replay_ && step_ == steps()) go(0);
  on = on && replay_ && steps() > 0;
  if (on)
    timer_.start();
  else
    timer_.stop();
  play_->setText(on ? tr("Pause") : tr("Play"));
}

void ReplayDrawer::showStep() {
  if (!replay_) return;
  const acre::BitGrid& plane = replay_->at(static_cast<size_t>(step_));
  const acre::Replay::Figures& f = replay_->figures(static_cast<size_t>(step_));
  {
    const QSignalBlocker quiet(scrub_);
    scrub_->setValue(step_);
  }
  const auto& list = planOf(*shown_->world).recipe().level->processes;
  const QString by =
      step_ == 0 ? tr("before the first")
                 : QString::fromStdString(list[processes_[static_cast<size_t>(step_ - 1)]].name);
  figures_->setText(tr("Step %1 of %2, %7: %3 open, %4 piece%5, outline of %6 sides")
                        .arg(step_)
                        .arg(steps())
                        .arg(look::percent(f.open))
                        .arg(f.pieces)
                        .arg(f.pieces == 1 ? QString() : tr("s"))
                        .arg(look::wholeNumber(static_cast<qint64>(f.outline)), by));
  for (ReplayPlot* plot : {open_, pieces_, outline_}) plot->setStep(step_);
  showPointer();
  if (!isVisible()) return;
  const acre::BitGrid now = plane;
  const acre::BitGrid& before = replay_->at(static_cast<size_t>(std::max(0, step_ - 1)));
  emit pictureChanged(pictureOf(before, now, planOf(*shown_->world).bounds()));
  replay_->at(static_cast<size_t>(step_));
}

void ReplayDrawer::hover(bool inside, acre::Cell cell) {
  hovering_ = inside;
  hovered_ = cell;
  if (isVisible()) showPointer();
}

void ReplayDrawer::showPointer() {
  if (!replay_ || !hovering_ || !planOf(*shown_->world).bounds().contains(hovered_))
    return pointer_->setText(
        tr("Point at a cell of the map: how many of its neighbours are solid "
           "stands here."));
  const auto x = static_cast<int32_t>(hovered_.x - planOf(*shown_->world).bounds().x);
  const auto z = static_cast<int32_t>(hovered_.z - planOf(*shown_->world).bounds().z);
  const bool solid = replay_->at(static_cast<size_t>(step_)).at(x, z);
  pointer_->setText(tr("x %1 z %2: %3, %4 of 8 neighbours solid")
                        .arg(look::wholeNumber(hovered_.x), look::wholeNumber(hovered_.z),
                            solid ? tr("solid") : tr("open"))
                        .arg(replay_->neighbours(x, z)));
}

void ReplayDrawer::reverse() {
  if (!world_ || !planOf(*world_).level()) return;
  if (recorded_.empty())
    return equal_->setText(tr("Choose one process: each is run again on its own."));
  equal_->setText(tr("Running again, from the last cell to the first…"));
  document_.engine().executor().submit(
      acre::Priority::Statistics, [courier = courier_, world = world_, id = recorded_,
                                      number = request_, stop = stop_.get_token()] {
        const acre::Recipe& recipe = planOf(*world).recipe();
        QString text;
        const auto maker = acre::Engine::levelMaker(recipe, planOf(*world).kernels());
        const auto& list = recipe.level->processes;
        const auto found = std::find_if(
            list.begin(), list.end(), [&](const auto& process) { return process.id == id; });
        if (!maker) {
          text = QString::fromStdString(maker.error().text());
        } else if (found != list.end()) {
          const auto result = (*maker)->reversed(
              static_cast<size_t>(found - list.begin()), recipe.level->floor, stop);
          if (!result)
            text = QString::fromStdString(result.error().text());
          else if (!result->instead.empty())
            text = tr("The order of cells means nothing here: %1.")
                       .arg(QString::fromStdString(result->instead));
          else if (result->equal)
            text = tr("Equal: %1 step%2 came out the same in reversed cell order.")
                       .arg(result->steps)
                       .arg(result->steps == 1 ? QString() : tr("s"));
          else
            text = tr("Not equal: %1 cells differ.").arg(result->differing);
        }
        courier->deliver([text, number](ReplayDrawer& self) {
          if (number == self.request_) self.equal_->setText(text);
        });
      });
}

void ReplayDrawer::keyPressEvent(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Space:
      return play(!timer_.isActive());
    case Qt::Key_Left:
      return go(step_ - 1);
    case Qt::Key_Right:
      return go(step_ + 1);
    case Qt::Key_Home:
      return go(0);
    case Qt::Key_End:
      return go(steps());
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace app
