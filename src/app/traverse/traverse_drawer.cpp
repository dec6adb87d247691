#include "app/traverse/traverse_drawer.h"

#include <QGridLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <cmath>
#include <thread>

#include "app/look/look.h"
#include "app/overlay/marks.h"
#include "base/atomic_file.h"

namespace app {
namespace {

constexpr double kRecordEvery = 0.05;  // Seconds.

QLabel* caption(const QString& text) {
  auto* label = new QLabel(text);
  label->setProperty("role", "caption");
  return label;
}

QLabel* heading(const QString& text) {
  auto* label = new QLabel(text);
  label->setFont(look::font(look::Type::Head));
  return label;
}

}  // namespace

TraverseDrawer::TraverseDrawer(
    Document& document, acre::Engine& engine, MapView& map, Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), document_(document), map_(map), dialogs_(dialogs), run_(engine) {
  setObjectName(QStringLiteral("traverse"));
  setFocusPolicy(Qt::ClickFocus);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 12, 10);
  column->setSpacing(6);
  buildRoute(column);
  buildSettings(column);
  buildResults(column);
  connect(&run_, &TraverseRun::moved, this, &TraverseDrawer::moved);
  connect(&run_, &TraverseRun::finished, this, &TraverseDrawer::finish);
  connect(&run_, &TraverseRun::refused, this, [this](const QString& which, const QString& reason) {
    verdict_->setText(tr("%1 cannot be run: %2").arg(which, reason));
    progress_->hide();
    map_.setTraverse(nullptr);
    showButtons();
  });
  connect(&map_, &MapView::routePointed, this, [this](qint64 x, qint64 z) {
    route_.kind = acre::RouteKind::Points;
    route_.points.push_back({x, z});
    route_.start = route_.points.front();
    showRoute();
  });
  connect(&map_, &MapView::viewpointMoved, this, [this] {
    if (!record_->isChecked()) return showRoute();
    const double now = static_cast<double>(recording_.elapsed()) / 1000;
    if (!route_.times.empty() && now < route_.times.back() + kRecordEvery) return;
    route_.points.push_back(map_.viewpoint().cell);
    route_.times.push_back(now);
    showRoute();
  });
  showButtons();
}

TraverseDrawer::~TraverseDrawer() {
  run_.stop();
}

// ---- building ----------------------------------------------------------------------------------

void TraverseDrawer::buildRoute(QVBoxLayout* column) {
  auto* row = new QHBoxLayout;
  kind_ = new Choice;
  kind_->setObjectName(QStringLiteral("traverse.route"));
  kind_->setAccessibleName(tr("Route"));
  kind_->addItems(
      {tr("straight"), tr("zigzag"), tr("circle"), tr("teleports"), tr("drawn"), tr("recorded")});
  kind_->setToolTip(
      tr("The way of the viewpoint, from where it is now: straight ahead, legs of\n"
         "1,000 cells at right angles, a circle of 1,000 cells, a leap every\n"
         "second, or a way that you draw on the map or record while driving."));
  connect(kind_, &Choice::activated, this, &TraverseDrawer::setRoute);
  draw_ = new QPushButton(tr("Draw on the map"));
  draw_->setObjectName(QStringLiteral("traverse.draw"));
  draw_->setCheckable(true);
  draw_->setToolTip(tr("While this is on, each click on the map adds a point to the route."));
  connect(draw_, &QPushButton::toggled, this, &TraverseDrawer::draw);
  record_ = new QPushButton(tr("Record"));
  record_->setObjectName(QStringLiteral("traverse.record"));
  record_->setCheckable(true);
  record_->setToolTip(tr("While this is on, driving the viewpoint (arrow keys) makes the route."));
  connect(record_, &QPushButton::toggled, this, &TraverseDrawer::record);
  row->addWidget(caption(tr("Route")));
  row->addWidget(kind_, 1);
  row->addWidget(draw_);
  row->addWidget(record_);
  column->addLayout(row);

  auto* second = new QHBoxLayout;
  speed_ = new NumberField(
      {{1, 100'000}, 1, true, false, tr("cells/s")}, QStringLiteral("traverse.speed"));
  speed_->setAccessibleName(tr("Speed"));
  speed_->setToolTip(
      tr("How fast the viewpoint goes: 1 to 100,000 cells a second. A walker\n"
         "makes some 5, a fast glider some 1,200."));
  speed_->setValue(1200);
  seconds_ =
      new NumberField({{0.1, 3600}, 1, false, false, tr("s")}, QStringLiteral("traverse.seconds"));
  seconds_->setAccessibleName(tr("Length"));
  seconds_->setToolTip(tr("Seconds along the route, 0.1 to 3,600."));
  seconds_->setValue(20);
  clock_ = new Choice;
  clock_->setObjectName(QStringLiteral("traverse.clock"));
  clock_->setAccessibleName(tr("Clock"));
  clock_->addItems(
      {tr("real time"), tr("as fast as possible"), tr("10 times slower"), tr("100 times slower")});
  clock_->setToolTip(
      tr("In real time, 60 frames a second; as fast as possible, each frame waiting for all that\n"
         "it needs; or slowed down, route and workers alike, to watch the chunks come."));
  for (NumberField* field : {speed_, seconds_}) {
    field->setReference(field->value());
    connect(field, &NumberField::refused, this, &TraverseDrawer::refused);
    connect(field, &NumberField::edited, this, [this] { showRoute(); });
    connect(field, &NumberField::left, this, [this] { map_.setFocus(); });
  }
  second->addWidget(speed_, 3);
  second->addWidget(caption(tr("for")));
  second->addWidget(seconds_, 2);
  second->addWidget(clock_, 4);
  column->addLayout(second);
}

void TraverseDrawer::buildSettings(QVBoxLayout* column) {
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(2);
  grid->addWidget(heading(QStringLiteral("A")), 0, 1, Qt::AlignRight);
  both_ = new Tick(tr("B, side by side"));
  both_->setObjectName(QStringLiteral("traverse.both"));
  connect(both_, &Tick::toggled, this, [this](bool on) {
    for (auto& row : fields_) row[1]->setEnabled(on);
  });
  grid->addWidget(both_, 0, 2, Qt::AlignRight);
  const double cores = std::max(1u, std::thread::hardware_concurrency());
  const struct {
    QString name, id, tip;
    NumberSpec spec;
    double a, b;
  } rows[kRows] = {{tr("Chunk size"), QStringLiteral("chunk"), tr("Cells a side, 1 to 1,024."),
                       {{1, 1024}, 1, true, true, tr("cells")}, 32, 16},
      {tr("View distance"), QStringLiteral("view"), tr("What is needed around the viewpoint."),
          {{0, 65'536}, 1, true, true, tr("cells")}, 384, 384},
      {tr("Loaded ahead"), QStringLiteral("ahead"),
          tr("So much farther is loaded, to be there in time."),
          {{0, 65'536}, 1, true, true, tr("cells")}, 128, 128},
      {tr("Collision"), QStringLiteral("collision"),
          tr("Where one can walk is made within so many cells, with waits of its own; 0: not."),
          {{0, 65'536}, 1, true, true, tr("cells")}, 0, 0},
      {tr("Objects"), QStringLiteral("objects"),
          tr("What stands there is handed over within so many cells, with waits of its own; 0: "
             "not."),
          {{0, 65'536}, 1, true, true, tr("cells")}, 0, 0},
      {tr("Detail levels"), QStringLiteral("levels"),
          tr("1: every chunk in full. More: coarser chunks from 256 cells on, then 512, and so "
             "on."),
          {{1, 9}, 1, false, true, {}}, 1, 1},
      {tr("Threads"), QStringLiteral("threads"),
          tr("Workers, 0 to 256. 0: the owner makes the chunks in what a frame leaves."),
          {{0, 256}, 1, false, true, {}}, cores, 1},
      {tr("Memory"), QStringLiteral("memory"), tr("Limit for all that is loaded."),
          {{1, 1 << 20}, 1, true, true, tr("MiB")}, 1024, 1024}};
  for (int r = 0; r < kRows; ++r) {
    auto* name = new QLabel(rows[r].name);
    name->setToolTip(rows[r].tip);
    grid->addWidget(name, r + 1, 0);
    for (const int c : {0, 1}) {
      const QString side = c == 0 ? QStringLiteral("a") : QStringLiteral("b");
      auto* field =
          new NumberField(rows[r].spec, QStringLiteral("traverse.%1.%2").arg(rows[r].id, side));
      field->setAccessibleName(tr("%1 in %2").arg(rows[r].name, side.toUpper()));
      field->setToolTip(rows[r].tip);
      field->setValue(c == 0 ? rows[r].a : rows[r].b);
      field->setReference(field->value());
      connect(field, &NumberField::refused, this, &TraverseDrawer::refused);
      connect(field, &NumberField::left, this, [this] { map_.setFocus(); });
      grid->addWidget(field, r + 1, c + 1);
      fields_[static_cast<size_t>(r)][static_cast<size_t>(c)] = field;
    }
  }
  for (auto& row : fields_) row[1]->setEnabled(false);
  grid->setColumnStretch(0, 2);
  grid->setColumnStretch(1, 3);
  grid->setColumnStretch(2, 3);
  column->addLayout(grid);

  auto* row = new QHBoxLayout;
  runButton_ = new QPushButton(tr("Run"));
  runButton_->setObjectName(QStringLiteral("traverse.run"));
  runButton_->setToolTip(tr("Runs, pauses and goes on (Space)."));
  connect(runButton_, &QPushButton::clicked, this, [this] {
    if (!run_.running()) return run();
    run_.setPaused(!run_.paused());
    showButtons();
  });
  stopButton_ = new QPushButton(tr("Stop"));
  stopButton_->setObjectName(QStringLiteral("traverse.stop"));
  connect(stopButton_, &QPushButton::clicked, this, &TraverseDrawer::stop);
  follow_ = new Tick(tr("map goes along"));
  follow_->setObjectName(QStringLiteral("traverse.follow"));
  follow_->setChecked(true);
  follow_->setToolTip(
      tr("The map follows the viewpoint of the run. Its pictures cost time too:\n"
         "switch it off to measure as undisturbed as can be."));
  auto* copy = new QPushButton(tr("Copy as command"));
  copy->setObjectName(QStringLiteral("traverse.copy"));
  connect(copy, &QPushButton::clicked, this, [this] { emit commandRequested(commandLine()); });
  row->addWidget(runButton_);
  row->addWidget(stopButton_);
  row->addWidget(follow_);
  row->addStretch(1);
  row->addWidget(copy);
  column->addLayout(row);
}

void TraverseDrawer::buildResults(QVBoxLayout* column) {
  progress_ = new QProgressBar;
  progress_->setObjectName(QStringLiteral("traverse.progress"));
  progress_->setRange(0, 1000);
  progress_->hide();
  column->addWidget(progress_);
  verdict_ = new QLabel(
      tr("A run drives a viewpoint along the route and measures whether every chunk is there in "
         "time. Choose what to compare, then Run."));
  verdict_->setObjectName(QStringLiteral("traverse.verdict"));
  verdict_->setWordWrap(true);
  verdict_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  column->addWidget(verdict_);
  table_ = new QTableWidget(0, 4);
  table_->setObjectName(QStringLiteral("traverse.table"));
  table_->setAccessibleName(tr("Figures"));
  table_->setHorizontalHeaderLabels({tr("Figure"), QStringLiteral("A"), QStringLiteral("B"), {}});
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(look::kTableControl - 3);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  constexpr int kWidths[] = {0, 72, 72, 40};
  for (const int k : {1, 2, 3}) {
    table_->horizontalHeader()->setSectionResizeMode(k, QHeaderView::Fixed);
    table_->setColumnWidth(k, kWidths[k]);
    table_->horizontalHeaderItem(k)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
  }
  table_->horizontalHeader()->setMinimumSectionSize(20);
  table_->horizontalHeaderItem(0)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setShowGrid(false);
  table_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  table_->setToolTip(tr("A click on the worst wait, or on what is missing, goes to its moment."));
  connect(table_, &QTableWidget::cellClicked, this, [this](int line, int at) {
    const QString name = table_->item(line, 0)->text();
    const auto which = static_cast<size_t>(at == 2 && columns_.size() > 1 ? 1 : 0);
    if (columns_.empty()) return;
    const acre::TraverseReport& report = columns_[which].report;
    if (name.startsWith(tr("wait, worst"))) showAt(report.waits.worstAt);
    if (name.startsWith(tr("missing")) && report.missingAt >= 0) showAt(report.missingAt);
    if (name.startsWith(tr("owner"))) showAt(report.consumerWorstAt);
  });
  table_->hide();
  plots_ = new TraversePlots;
  plots_->hide();
  connect(plots_, &TraversePlots::clicked, this, &TraverseDrawer::showAt);
  key_ = caption(tr("A solid, B dashed. A click goes to that moment of the route."));
  key_->hide();
  column->addWidget(key_);
  column->addWidget(plots_);
  column->addWidget(table_);
  auto* row = new QHBoxLayout;
  csv_ = new QPushButton(tr("Frames as CSV…"));
  csv_->setObjectName(QStringLiteral("traverse.csv"));
  connect(csv_, &QPushButton::clicked, this, [this] { exportAs(true); });
  json_ = new QPushButton(tr("All as JSON…"));
  json_->setObjectName(QStringLiteral("traverse.json"));
  connect(json_, &QPushButton::clicked, this, [this] { exportAs(false); });
  row->addWidget(csv_);
  row->addWidget(json_);
  row->addStretch(1);
  column->addLayout(row);
  csv_->hide();
  json_->hide();
}

// ---- the route ---------------------------------------------------------------------------------

void TraverseDrawer::setRoute(int choice) {
  if (choice != Drawn) draw_->setChecked(false);
  if (choice != Recorded) record_->setChecked(false);
  if (choice == Drawn && route_.points.size() < 2) draw_->setChecked(true);
  if (choice == Recorded && route_.times.size() < 2) record_->setChecked(true);
  showRoute();
}

void TraverseDrawer::draw(bool on) {
  map_.setDrawingRoute(on);
  if (!on) return;
  record_->setChecked(false);
  kind_->setCurrentIndex(Drawn);
  route_ = {acre::RouteKind::Points, {}, {}, {}};
  verdict_->setText(tr("Click on the map, point by point; then press “Draw on the map” again."));
  showRoute();
}

void TraverseDrawer::record(bool on) {
  if (!on) return;
  draw_->setChecked(false);
  kind_->setCurrentIndex(Recorded);
  route_ = {acre::RouteKind::Points, map_.viewpoint().cell, {map_.viewpoint().cell}, {0}};
  recording_.start();
  verdict_->setText(tr("Recording: drive with the arrow keys; then press “Record” again."));
  map_.setFocus();
}

acre::Route TraverseDrawer::routeNow() const {
  const int choice = kind_->currentIndex();
  if (choice == Drawn || choice == Recorded) return route_;
  constexpr acre::RouteKind kKinds[] = {acre::RouteKind::Straight, acre::RouteKind::Zigzag,
      acre::RouteKind::Circle, acre::RouteKind::Teleports};
  return {kKinds[choice], run_.running() || at_ >= 0 ? start_ : map_.viewpoint().cell, {}, {}};
}

/// The way over the map, in points close enough for its bends.
void TraverseDrawer::showRoute() {
  if (!isVisible()) return;
  const acre::Route route = routeNow();
  std::vector<acre::Cell> points;
  if (route.kind == acre::RouteKind::Points) {
    points = route.points;
  } else if (route.kind != acre::RouteKind::Teleports) {
    const double seconds = seconds_->value(), speed = speed_->value();
    const int count = std::clamp(static_cast<int>(seconds * speed / 50), 2, 4000);
    for (int i = 0; i <= count; ++i) points.push_back(route.at(seconds * i / count, speed));
  }
  map_.overlays().set(Over::Route, std::make_shared<RouteOverlay>(std::move(points)));
}

void TraverseDrawer::showEvent(QShowEvent*) {
  showRoute();
}

void TraverseDrawer::hideEvent(QHideEvent*) {
  draw_->setChecked(false);
  record_->setChecked(false);
  map_.overlays().set(Over::Route, nullptr);
}

// ---- running -----------------------------------------------------------------------------------

TraverseRun::Plan TraverseDrawer::planOf(size_t c) const {
  const auto whole = [&](Row row) { return std::llround(fields_[row][c]->value()); };
  TraverseRun::Plan plan;
  plan.recipe = document_.recipe();
  plan.recipe.frame.chunkSize = static_cast<int32_t>(whole(Chunk));
  acre::TraverseColumn& column = plan.column;
  column.name = std::string(1, c == 0 ? 'A' : 'B');
  column.chunkSize = plan.recipe.frame.chunkSize;
  acre::TraverseSettings& s = column.settings;
  s.route = routeNow();
  s.speed = speed_->value();
  s.seconds = seconds_->value();
  s.realTime = clock_->currentIndex() != Fast;
  s.threads = static_cast<unsigned>(whole(Threads));
  s.memoryLimit = static_cast<uint64_t>(whole(Memory)) << 20;
  s.stream = acre::StreamSettings::moving(whole(View), column.chunkSize, s.speed);
  s.stream.ahead = whole(Ahead);
  const auto nearer = [&](Row row) {  // No farther than what it is made of.
    const int64_t cells = whole(row);
    return cells > 0 ? std::min<int64_t>(cells, whole(View)) : -1;
  };
  plan.collision = nearer(Collision);
  plan.objects = nearer(Objects);
  s.stream.levels = static_cast<int>(whole(Levels));
  s.stream.slowMotion = clock_->currentIndex() == Slow10    ? 10
                        : clock_->currentIndex() == Slow100 ? 100
                                                            : 1;
  return plan;
}

void TraverseDrawer::run() {
  draw_->setChecked(false);
  record_->setChecked(false);
  at_ = -1;
  start_ = map_.viewpoint().cell;
  const acre::Route route = routeNow();
  const bool own = kind_->currentIndex() == Drawn || kind_->currentIndex() == Recorded;
  if (own && route.points.size() < 2)
    return verdict_->setText(tr("The route has no points yet: draw or record one first."));
  std::vector<TraverseRun::Plan> plans;
  for (size_t c = 0; c < columnCount(); ++c) plans.push_back(planOf(c));
  progress_->setValue(0);
  progress_->show();
  verdict_->setText(tr("Running…"));
  run_.start(std::move(plans), follow_->isChecked());
  showButtons();
}

void TraverseDrawer::stop() {
  run_.stop();
}

void TraverseDrawer::moved(const QString& column, double seconds, double share,
    const std::shared_ptr<TraverseScene>& scene, quint32 loaded, quint32 missing) {
  progress_->setValue(static_cast<int>(share * 1000));
  verdict_->setText(tr("%1 at %2 s: %3 chunks loaded, %4 missing")
                        .arg(column)
                        .arg(seconds, 0, 'f', 1)
                        .arg(loaded)
                        .arg(missing));
  scene->covered = isVisible() && !look::isWide(*window()) ? width() : 0;
  map_.setTraverse(scene);
}

void TraverseDrawer::finish(const std::vector<acre::TraverseColumn>& columns) {
  progress_->hide();
  map_.setTraverse(nullptr);
  if (follow_->isChecked()) map_.backToViewpoint();
  showButtons();
  if (columns.empty() || columns.front().report.frames.empty())
    return verdict_->setText(tr("Stopped before the first frame."));
  columns_ = columns;
  QStringList lines;
  const auto settings = acre::traverseSettingsText(columns_);
  for (size_t i = 0; i < columns_.size(); ++i) {
    const acre::TraverseReport& report = columns_[i].report;
    lines << tr("<b>%1</b> (%2): %3%4")
                 .arg(QString::fromStdString(columns_[i].name), QString::fromStdString(settings[i]),
                     QString::fromStdString(acre::verdictOf(report)).toHtmlEscaped(),
                     report.finished ? QString() : tr(" (stopped)"));
  }
  verdict_->setText(lines.join(QStringLiteral("<br>")));
  const auto figures = acre::traverseFigures(columns_);
  table_->setRowCount(static_cast<int>(figures.size()));
  table_->setColumnHidden(2, columns_.size() < 2);
  for (int line = 0; line < table_->rowCount(); ++line) {
    const acre::TraverseFigure& figure = figures[static_cast<size_t>(line)];
    table_->setItem(line, 0, new QTableWidgetItem(QString::fromStdString(figure.name)));
    for (size_t c = 0; c < 2; ++c) {
      auto* item = new QTableWidgetItem(
          c < figure.values.size() ? QString::fromStdString(acre::figureText(figure.values[c]))
                                   : QString());
      item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      table_->setItem(line, static_cast<int>(c) + 1, item);
    }
    auto* unit = new QTableWidgetItem(QString::fromStdString(figure.unit));
    unit->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->setItem(line, 3, unit);
  }
  table_->setFixedHeight(table_->horizontalHeader()->sizeHint().height() +
                         table_->rowCount() * table_->verticalHeader()->defaultSectionSize() + 4);
  plots_->setColumns(columns_);
  for (QWidget* part : std::initializer_list<QWidget*>{table_, key_, plots_, csv_, json_})
    part->show();
}

void TraverseDrawer::showButtons() {
  runButton_->setText(!run_.running() ? tr("Run") : run_.paused() ? tr("Go on") : tr("Pause"));
  stopButton_->setEnabled(run_.running());
}

/// Puts the map where the viewpoint was at a moment of the run.
void TraverseDrawer::showAt(double seconds) {
  if (columns_.empty()) return;
  at_ = seconds;
  plots_->setHair(seconds);
  const acre::TraverseSettings& s = columns_.front().settings;
  map_.goTo(s.route.at(seconds, s.speed));
}

/// Frames onward, or back.
void TraverseDrawer::step(double frames) {
  if (columns_.empty()) return;
  const acre::TraverseColumn& c = columns_.front();
  const double last = c.report.frames.back().seconds;
  showAt(std::clamp(std::max(0.0, at_) + frames / c.settings.framesPerSecond, 0.0, last));
}

void TraverseDrawer::keyPressEvent(QKeyEvent* e) {
  const double much = e->modifiers() & Qt::ShiftModifier ? 60 : 1;
  switch (e->key()) {
    case Qt::Key_Space:
      return runButton_->click();
    case Qt::Key_Left:
      return step(-much);
    case Qt::Key_Right:
      return step(much);
    case Qt::Key_Home:
      return step(-1e9);
    case Qt::Key_End:
      return step(1e9);
    default:
      QWidget::keyPressEvent(e);
  }
}

QString TraverseDrawer::commandLine() const {
  const acre::Route route = routeNow();
  QString line =
      QStringLiteral("--route %1 --speed %2 --seconds %3")
          .arg(route.kind == acre::RouteKind::Points ? QStringLiteral("ROUTE.json")
                                                     : QLatin1String(acre::routeName(route.kind)))
          .arg(speed_->value())
          .arg(seconds_->value());
  if (route.kind != acre::RouteKind::Points)
    line += QStringLiteral(" --start %1,%2").arg(route.start.x).arg(route.start.z);
  if (clock_->currentIndex() == Fast) line += QStringLiteral(" --fast");
  constexpr const char* kNames[kRows] = {
      "chunk", "view", "ahead", "collision", "objects", "levels", "threads", "memory"};
  for (size_t r = 0; r < kRows; ++r)
    if ((r != Collision && r != Objects) || fields_[r][0]->value() > 0)
      line += QStringLiteral(" --%1 %2").arg(QLatin1String(kNames[r])).arg(fields_[r][0]->value());
  if (both_->isChecked())
    for (size_t r = 0; r < kRows; ++r)
      if (fields_[r][0]->value() != fields_[r][1]->value())
        line += QStringLiteral(" --against %1=%2")
                    .arg(QLatin1String(kNames[r]))
                    .arg(fields_[r][1]->value());
  return line;
}

void TraverseDrawer::exportAs(bool csv) {
  if (columns_.empty()) return;
  const QString file = dialogs_.saveFile(this, csv ? tr("Frames as CSV") : tr("Traverse as JSON"),
      csv ? tr("Tables (*.csv)") : tr("JSON (*.json)"),
      csv ? QStringLiteral("traverse.csv") : QStringLiteral("traverse.json"));
  if (file.isEmpty()) return;
  const auto write = [&](const QString& name, const std::string& text) {
    acre::Status done = acre::checkOutputs({name.toStdString()}, document_.inputs());
    if (done) done = acre::writeFile(name.toStdString(), text);
    if (!done) emit refused(QString::fromStdString(done.error().text()));
  };
  if (!csv) return write(file, acre::traverseJson(columns_, true));
  for (const acre::TraverseColumn& c : columns_) {
    QString name = file;
    if (columns_.size() > 1)
      name.insert(name.endsWith(QLatin1String(".csv")) ? name.size() - 4 : name.size(),
          QLatin1Char('-') + QString::fromStdString(c.name));
    write(name, acre::traverseCsv(c.report));
  }
}

}  // namespace app

#include "moc_traverse_drawer.cpp"
