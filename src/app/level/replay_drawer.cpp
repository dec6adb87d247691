#include "app/level/replay_drawer.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/edit/lists.h"
#include "app/look/caption.h"
#include "app/look/look.h"
#include "cave/open_spaces.h"
#include "world/engine.h"

namespace app {
namespace {

/// Bytes that a recording may take, and that it reserves at once; longer ones end there, and where
/// the limit of memory has no more, and say so.
constexpr uint64_t kMostBytes = uint64_t{192} << 20;
constexpr uint64_t kBytesAtOnce = uint64_t{2} << 20;

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

  transport_ = new Transport(QStringLiteral("replay"));
  connect(transport_, &Transport::moved, this, &ReplayDrawer::showStep);
  inner->addWidget(transport_);
  figures_ = new QLabel;
  figures_->setObjectName(QStringLiteral("replay.figures"));
  figures_->setWordWrap(true);
  inner->addWidget(figures_);
  inner->addWidget(
      look::caption(tr("On the map solid cells are dark; the darkest were filled by this step, "
                       "those in blue-green opened by it."),
          true));
  const auto plot = [&](const QString& title, const char* name) {
    auto* one =
        new Plot(title, QStringLiteral("replay.plot.") + QLatin1String(name), Plot::Axes::Plain);
    one->setToolTip(tr("A click goes to that step."));
    connect(one, &Plot::picked, this, [this](double at) { go(static_cast<int>(std::lround(at))); });
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
  basin_ = new BasinPanel(document_);
  column->addWidget(basin_);
  column->addStretch(1);
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

/// The steps of one process of a floor, or of all where id is empty.
auto ReplayDrawer::recordOf(const std::shared_ptr<const acre::World>& world, const std::string& id,
    acre::MemoryBudget& budget, const std::stop_token& stop) -> Recording {
  const acre::Recipe& recipe = planOf(*world).recipe();
  const auto& processes = recipe.level->processes;
  Recording out;
  out.recorded = std::make_shared<Recorded>();
  out.recorded->world = world;
  uint64_t reserved = 0;
  const auto room = [&] {
    while (reserved < out.replay->bytes() + kBytesAtOnce / 2) {
      auto more = reserved < kMostBytes ? budget.reserve(kBytesAtOnce) : std::nullopt;
      if (!more) return false;
      reserved += kBytesAtOnce;
      out.recorded->room.push_back(std::move(*more));
    }
    return true;
  };
  const auto maker = acre::Engine::levelMaker(recipe, planOf(*world).kernels());
  if (!maker) {
    out.fault = QString::fromStdString(maker.error().text());
    return out;
  }
  const acre::Rect& bounds = planOf(*world).bounds();
  acre::BitGrid before =
      acre::solidPlane(static_cast<int32_t>(bounds.width), static_cast<int32_t>(bounds.length));
  const auto made = (*maker)->make(
      recipe.level->floor,
      [&](size_t process, const acre::BitGrid& plane) {
        if (!id.empty() && processes[process].id != id) {
          if (!out.replay) before = plane;
          return;
        }
        if (!out.replay) out.replay = std::make_shared<acre::Replay>(before);
        out.whole = out.whole && room();
        if (!out.whole) return;
        out.replay->record(plane);
        out.by.push_back(process);
      },
      stop);
  if (!made) out.fault = QString::fromStdString(made.error().text());
  return out;
}

/// restore: the step that was shown before; negative: the last.
void ReplayDrawer::show_(const Recording& made, int restore) {
  recording_ = false;
  shown_ = made.recorded;
  replay_ = made.replay;
  processes_ = made.by;
  if (!replay_)
    return headline_->setText(
        made.fault.isEmpty() ? tr("This process takes no step on this floor.") : made.fault);
  headline_->setText(tr("Floor %1, %2 step%3, kept in %4 KiB%5")
                         .arg(document_.recipe().level->floor)
                         .arg(steps())
                         .arg(steps() == 1 ? QString() : tr("s"))
                         .arg(look::wholeNumber(static_cast<qint64>(replay_->bytes()) / 1024 + 1),
                             made.whole ? QString() : tr("; the limit ends it here")));
  const auto count = [](double v) { return look::wholeNumber(std::llround(v)); };
  const auto draw = [&](Plot* plot, auto of, const Plot::Format& told) {
    std::vector<QPointF> line;
    for (int k = 0; k <= steps(); ++k)
      line.emplace_back(k, static_cast<double>(of(replay_->figures(static_cast<size_t>(k)))));
    plot->setLines({std::move(line)}, std::max(1, steps()), count, told);
  };
  draw(
      open_, [](const auto& f) { return f.open; }, look::percent);
  draw(
      pieces_, [](const auto& f) { return f.pieces; }, count);
  draw(
      outline_, [](const auto& f) { return f.outline; }, count);
  std::vector<double> marks;
  for (size_t k = 1; k < made.by.size(); ++k)
    if (made.by[k] != made.by[k - 1]) marks.push_back(static_cast<double>(k));
  for (Plot* plot : {open_, pieces_, outline_}) plot->setMarks(marks);
  transport_->set(steps(), restore >= 0 && restore <= steps() ? restore : steps());
  showStep();
}

void ReplayDrawer::record() {
  stop_.request_stop();
  stop_ = {};
  play(false);
  const int kept = world_ && replay_ && step() < steps() ? step() : -1;
  const bool same = chosenId() == recorded_;
  world_ = document_.world();
  ++request_;
  equal_->clear();
  const bool level = planOf(*world_).level() != nullptr;
  body_->setVisible(level);
  const bool wet = planOf(*world_).water() != nullptr;
  basin_->setVisible(wet);
  if (wet) basin_->worldChanged();
  if (!level) {
    replay_.reset();
    transport_->set(0, 0);
    shown_.reset();
    recording_ = false;
    emit pictureChanged(nullptr);
    return headline_->setText(
        planOf(*world_).recipe().frame.kind == acre::WorldKind::Level
            ? tr("The level is switched off.")
        : wet
            ? tr("How water fills the hollow that the land about the viewpoint leads down to, "
                 "and leaves it.")
            : tr("Only the floors of levels and the basins of rivers are made step by step. Choose "
                 "the kind “Level” in the Frame, or switch Water on."));
  }
  listProcesses();
  recorded_ = chosenId();
  recording_ = true;
  headline_->setText(tr("Recording…"));
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = world_, id = recorded_, number = request_,
          restore = same ? kept : -1, &budget = document_.engine().budget(),
          stop = stop_.get_token()] {
        const auto made = std::make_shared<const Recording>(recordOf(world, id, budget, stop));
        courier->deliver([made, number, restore](ReplayDrawer& self) {
          if (number == self.request_) self.show_(*made, restore);
        });
      });
}

void ReplayDrawer::go(int step) {
  if (replay_) transport_->go(step);
}

void ReplayDrawer::play(bool on) {
  transport_->play(on && replay_);
}

void ReplayDrawer::showStep() {
  if (!replay_) return;
  const acre::BitGrid& plane = replay_->at(static_cast<size_t>(step()));
  const acre::Replay::Figures& f = replay_->figures(static_cast<size_t>(step()));
  const auto& list = planOf(*shown_->world).recipe().level->processes;
  const QString by =
      step() == 0 ? tr("before the first")
                  : QString::fromStdString(list[processes_[static_cast<size_t>(step() - 1)]].name);
  figures_->setText(tr("Step %1 of %2, %7: %3 open, %4 piece%5, outline of %6 sides")
                        .arg(step())
                        .arg(steps())
                        .arg(look::percent(f.open))
                        .arg(f.pieces)
                        .arg(f.pieces == 1 ? QString() : tr("s"))
                        .arg(look::wholeNumber(static_cast<qint64>(f.outline)), by));
  for (Plot* plot : {open_, pieces_, outline_}) plot->setChosen(step());
  showPointer();
  if (!isVisible()) return;
  const acre::BitGrid now = plane;
  const acre::BitGrid& before = replay_->at(static_cast<size_t>(std::max(0, step() - 1)));
  emit pictureChanged(pictureOf(before, now, planOf(*shown_->world).bounds()));
  replay_->at(static_cast<size_t>(step()));
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
  const bool solid = replay_->at(static_cast<size_t>(step())).at(x, z);
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
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = world_, id = recorded_, number = request_,
          stop = stop_.get_token()] {
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
  const bool took = basin_->isVisible() ? basin_->press(*e) : replay_ && transport_->press(*e);
  if (!took) QWidget::keyPressEvent(e);
}

}  // namespace app

#include "moc_replay_drawer.cpp"
