#include "app/window/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenuBar>
#include <QMimeData>
#include <QPainter>
#include <QScreen>
#include <QShortcut>
#include <QTimer>

#include "app/look/look.h"
#include "app/window/export_dialog.h"
#include "base/seed.h"
#include "world/demos.h"

namespace app {
namespace {

const QString kWorldFilter = QStringLiteral("Worlds (*.acre);;All files (*)");

/// Hints of the first minute, in order; each goes when it has been followed.
struct Hint {
  const char* id;
  const char* text;
};
constexpr Hint kHints[] = {{"drag", QT_TR_NOOP("Drag to move")},
                           {"zoom", QT_TR_NOOP("wheel zooms")},
                           {"drive", QT_TR_NOOP("arrow keys drive the viewpoint")},
                           {"seed", QT_TR_NOOP("PgDn another seed")}};

/// The warning mark: ochre, a stake with a bar.
class Mark : public QWidget {
 public:
  explicit Mark(QWidget* parent = nullptr) : QWidget(parent) { setFixedSize(14, 18); }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(look::tokens().ochre, 2.5, Qt::SolidLine, Qt::FlatCap));
    p.drawLine(QPointF(7, 2), QPointF(7, 11));
    p.drawLine(QPointF(7, 13.5), QPointF(7, 16));
  }
};

}  // namespace

MainWindow::MainWindow(acre::Engine& engine, Settings& settings, Dialogs& dialogs, QWidget* parent)
    : QMainWindow(parent),
      settings_(settings),
      dialogs_(dialogs),
      document_(engine),
      statistics_(document_) {
  setObjectName(QStringLiteral("window"));
  setAcceptDrops(true);
  setMinimumSize(1024, 640);
  resize(1280, 760);
  if (!settings_.geometry().isEmpty()) restoreGeometry(settings_.geometry());

  auto* central = new QWidget;
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  setCentralWidget(central);
  buildTitleRow(column);
  auto* row = new QHBoxLayout;
  row->setSpacing(0);
  map_ = new MapView(engine);
  map_->setViewDistance(settings_.viewDistance());
  row->addWidget(map_, 1);
  buildEditor(row);
  column->addLayout(row, 1);
  strip_ = new StageStrip(document_);
  column->addWidget(strip_);
  buildStatusRow(column);
  buildActions();

  connect(&document_, &Document::worldChanged, this, &MainWindow::worldChanged);
  connect(&document_, &Document::fileChanged, this, &MainWindow::titleChanged);
  connect(&document_, &Document::refused, this, &MainWindow::refuse);
  connect(strip_, &StageStrip::stageChosen, this, &MainWindow::showStage);
  connect(map_, &MapView::hovered, this, [this](bool inside, qint64 x, qint64 z) {
    hovering_ = inside;
    hovered_ = {x, z};
    showStatus();
  });
  connect(map_, &MapView::viewpointMoved, this, &MainWindow::showStatus);
  connect(map_, &MapView::didDrive, this, [this] { finishHint(QStringLiteral("drive")); });
  connect(map_, &MapView::streamChanged, this, &MainWindow::showStream);
  connect(map_, &MapView::worked, strip_, &StageStrip::setBusy);
  connect(map_, &MapView::viewChanged, this, [this] {
    strip_->setView(map_->geometry());
    heights_->setView(map_->geometry());
    showStatus();
  });
  connect(map_, &MapView::didDrag, this, [this] { finishHint(QStringLiteral("drag")); });
  connect(map_, &MapView::didZoom, this, [this] { finishHint(QStringLiteral("zoom")); });
  map_->setChunksShown(settings_.chunksShown());
  map_->setRingShown(settings_.ringShown());
  showStage(strip_->chosen());
  worldChanged();
  titleChanged();
  showHints();
  map_->setFocus();
}

MainWindow::~MainWindow() {
  // Editors speak to the document until they are gone, even while they lose the focus; after that
  // the document, whose undo stack says farewell, must find nobody listening.
  delete takeCentralWidget();
  document_.disconnect(this);
}

// ---- building ----------------------------------------------------------------------------------

void MainWindow::buildTitleRow(QVBoxLayout* column) {
  title_ = new TitleRow(settings_);
  column->addWidget(title_);
  connect(title_, &TitleRow::seedChosen, this, &MainWindow::setSeed);
  connect(title_, &TitleRow::seedLeft, this, [this] { finishHint(QStringLiteral("seed")); });
  connect(title_, &TitleRow::pictureChosen, this,
          [this](acre::PictureKind kind) { map_->setPicture(kind); });
  connect(title_, &TitleRow::chunksShown, this,
          [this](bool shown) { map_->setChunksShown(shown); });
  connect(title_, &TitleRow::ringShown, this, [this](bool shown) { map_->setRingShown(shown); });
  connect(title_, &TitleRow::viewDistanceChosen, this,
          [this](qint64 cells) { map_->setViewDistance(cells); });
  connect(title_, &TitleRow::refused, this, &MainWindow::refuse);
  connect(title_, &TitleRow::leaveRequested, this, [this] { map_->setFocus(); });
}

void MainWindow::buildEditor(QHBoxLayout* row) {
  editorPane_ = new QWidget;
  editorPane_->setObjectName(QStringLiteral("editor"));
  editorPane_->setFixedWidth(look::kEditorWidth);
  auto* column = new QVBoxLayout(editorPane_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* head = new QWidget;
  head->setFixedHeight(32);
  auto* headRow = new QHBoxLayout(head);
  headRow->setContentsMargins(16, 0, 16, 0);
  editorTitle_ = new QLabel;
  editorTitle_->setObjectName(QStringLiteral("editor.title"));
  editorTitle_->setFont(look::capitals());
  editorFigures_ = new QLabel;
  editorFigures_->setProperty("role", "caption");
  headRow->addWidget(editorTitle_);
  headRow->addStretch(1);
  headRow->addWidget(editorFigures_);
  auto* top = new QFrame;
  top->setFixedHeight(2);
  top->setProperty("role", "edgeTop");
  column->addWidget(top);
  column->addWidget(head);
  noticeRow_ = new QWidget;
  auto* noticeLine = new QHBoxLayout(noticeRow_);
  noticeLine->setContentsMargins(12, 4, 12, 4);
  noticeLine->addWidget(new Mark, 0, Qt::AlignTop);
  notice_ = new QLabel;
  notice_->setObjectName(QStringLiteral("notice"));
  notice_->setWordWrap(true);
  notice_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  noticeLine->addWidget(notice_, 1);
  noticeRow_->hide();
  column->addWidget(noticeRow_);
  frame_ = new FrameEditor(document_);
  heights_ = new HeightsEditor(document_);
  strata_ = new StrataEditor(document_, statistics_);
  Editor* editors[kStages] = {frame_, heights_, strata_};
  for (size_t i = 0; i < kStages; ++i) {
    pages_[i] = new QScrollArea;
    pages_[i]->setWidgetResizable(true);
    pages_[i]->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    pages_[i]->setFocusPolicy(Qt::NoFocus);
    pages_[i]->setWidget(editors[i]);
    column->addWidget(pages_[i], 1);
    connect(editors[i], &Editor::refused, this, &MainWindow::refuse);
    connect(editors[i], &Editor::leaveRequested, this, [this] { map_->setFocus(); });
  }
  row->addWidget(editorPane_);
}

void MainWindow::buildStatusRow(QVBoxLayout* column) {
  auto* bar = new QWidget;
  bar->setFixedHeight(26);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(12, 0, 16, 0);
  cell_ = new QLabel;
  cell_->setObjectName(QStringLiteral("status.cell"));
  stream_ = new QLabel;
  stream_->setObjectName(QStringLiteral("status.stream"));
  stream_->setToolTip(
      tr("Chunks within the view distance: loaded of expected, waiting, and the median time "
         "to make one."));
  row->addWidget(cell_);
  row->addStretch(1);
  row->addWidget(stream_);
  column->addWidget(bar);
}

QAction* MainWindow::addAction(QMenu* menu, const QString& text, const QString& name,
                               const QKeySequence& keys, std::function<void()> run) {
  auto* action = menu->addAction(text);
  action->setObjectName(name);
  action->setShortcut(keys);
  connect(action, &QAction::triggered, this, std::move(run));
  return action;
}

void MainWindow::buildActions() {
  auto* file = menuBar()->addMenu(tr("&File"));
  addAction(file, tr("&New world"), QStringLiteral("file.new"), QKeySequence::New, [this] {
    if (!mayLeave()) return;
    document_.open(newRecipe(), {});
    strip_->choose(Stage::Frame);
    map_->goTo({0, 0});
  });
  addAction(file, tr("&Open…"), QStringLiteral("file.open"), QKeySequence::Open, [this] {
    const QString chosen = dialogs_.openFile(this, tr("Open world"), kWorldFilter);
    if (!chosen.isEmpty()) openWorld(chosen);
  });
  recent_ = file->addMenu(tr("Open &recent"));
  connect(recent_, &QMenu::aboutToShow, this, &MainWindow::showRecent);
  auto* demoMenu = file->addMenu(tr("Open &demo"));
  for (const acre::Demo& demo : acre::demos()) {
    const QString name = QString::fromStdString(demo.name);
    addAction(demoMenu, name, QStringLiteral("file.demo.") + name, {},
              [this, name] { openWorld(name); });
  }
  file->addSeparator();
  addAction(file, tr("&Save"), QStringLiteral("file.save"), QKeySequence::Save, [this] { save(); });
  addAction(file, tr("Save &as…"), QStringLiteral("file.saveAs"), QKeySequence(tr("Ctrl+Shift+S")),
            [this] { saveAs(); });
  addAction(file, tr("&Export picture…"), QStringLiteral("file.export"), QKeySequence(tr("Ctrl+E")),
            [this] { exportPicture(); });
  file->addSeparator();
  addAction(file, tr("&Quit"), QStringLiteral("file.quit"), QKeySequence(tr("Ctrl+Q")),
            [this] { close(); });

  auto* edit = menuBar()->addMenu(tr("&Edit"));
  QAction* undo = document_.undoStack().createUndoAction(this, tr("Undo"));
  undo->setObjectName(QStringLiteral("edit.undo"));
  undo->setShortcut(QKeySequence::Undo);
  QAction* redo = document_.undoStack().createRedoAction(this, tr("Redo"));
  redo->setObjectName(QStringLiteral("edit.redo"));
  redo->setShortcuts({QKeySequence(tr("Ctrl+Shift+Z")), QKeySequence(tr("Ctrl+Y"))});
  edit->addAction(undo);
  edit->addAction(redo);

  auto* seed = menuBar()->addMenu(tr("&Seed"));
  addAction(seed, tr("&Roll a new seed\tR"), QStringLiteral("seed.roll"), {},
            [this] { title_->roll(); });
  addAction(seed, tr("&Earlier seed\tPgUp"), QStringLiteral("seed.earlier"), {},
            [this] { title_->earlier(); });
  addAction(seed, tr("&Later seed\tPgDn"), QStringLiteral("seed.later"), {},
            [this] { title_->later(); });

  auto* view = menuBar()->addMenu(tr("&View"));
  addAction(view, tr("&Go to cell…"), QStringLiteral("view.goTo"), QKeySequence(tr("Ctrl+G")),
            [this] { askGoTo(); });
  addAction(view, tr("&Back to the viewpoint\tHome"), QStringLiteral("view.home"), {},
            [this] { map_->backToViewpoint(); });
  addAction(view, tr("Zoom &in"), QStringLiteral("view.zoomIn"), QKeySequence(tr("Ctrl++")),
            [this] { map_->zoomCentre(0.5); });
  addAction(view, tr("Zoom &out"), QStringLiteral("view.zoomOut"), QKeySequence(tr("Ctrl+-")),
            [this] { map_->zoomCentre(2); });
  view->addSeparator();
  QAction* night = addAction(view, tr("&Night"), QStringLiteral("view.night"),
                             QKeySequence(tr("Ctrl+Shift+N")), [] {});
  night->setCheckable(true);
  night->setChecked(settings_.night());
  connect(night, &QAction::toggled, this, &MainWindow::setNight);
  addAction(view, tr("&Full screen"), QStringLiteral("view.full"), QKeySequence(Qt::Key_F11),
            [this] { setWindowState(windowState() ^ Qt::WindowFullScreen); });

  auto* help = menuBar()->addMenu(tr("&Help"));
  addAction(help, tr("&Keys and pointer"), QStringLiteral("help.keys"), QKeySequence(Qt::Key_F1),
            [this] { showHelp(); });

  const auto shortcut = [this](const QKeySequence& keys, std::function<void()> run) {
    connect(new QShortcut(keys, this), &QShortcut::activated, this, std::move(run));
  };
  const auto stage = [this](int by) {
    const int to = static_cast<int>(strip_->chosen()) + by;
    if (to >= 0 && to < kStages) strip_->choose(static_cast<Stage>(to));
  };
  shortcut(QKeySequence(tr("Ctrl+PgDown")), [stage] { stage(1); });
  shortcut(QKeySequence(tr("Ctrl+PgUp")), [stage] { stage(-1); });
  shortcut(QKeySequence(Qt::Key_F6), [this] {
    if (!map_->hasFocus()) return map_->setFocus();
    QWidget* page = pages_[static_cast<size_t>(strip_->chosen())]->widget();
    if (QWidget* last = page->focusWidget())
      last->setFocus(Qt::TabFocusReason);
    else
      for (QWidget* child : page->findChildren<QWidget*>())
        if (child->isVisible() && child->isEnabled() && (child->focusPolicy() & Qt::TabFocus))
          return child->setFocus(Qt::TabFocusReason);
  });
  // Single keys act while the map has the focus.
  const auto mapKey = [this](const QKeySequence& keys, std::function<void()> run) {
    connect(new QShortcut(keys, map_, nullptr, nullptr, Qt::WidgetShortcut), &QShortcut::activated,
            this, std::move(run));
  };
  mapKey(QKeySequence(Qt::Key_R), [this] { title_->roll(); });
  mapKey(QKeySequence(Qt::Key_PageUp), [this] { title_->earlier(); });
  mapKey(QKeySequence(Qt::Key_PageDown), [this] { title_->later(); });
  mapKey(QKeySequence(Qt::Key_G), [this] { title_->toggleChunks(); });
  mapKey(QKeySequence(Qt::Key_V), [this] { title_->toggleRing(); });
  for (int i = 0; i < kStages; ++i)
    mapKey(QKeySequence(Qt::Key_1 + i), [this, i] { strip_->choose(static_cast<Stage>(i)); });
}

// ---- following the document --------------------------------------------------------------------

void MainWindow::worldChanged() {
  map_->setWorld(document_.world());
  showEditor();
  strip_->refresh();
  title_->setSeed(QString::fromStdString(document_.recipe().seed));
  noticeRow_->hide();
  notice_->clear();
  titleChanged();
  showStatus();
}

void MainWindow::titleChanged() {
  const QString name = QString::fromStdString(document_.recipe().name);
  title_->setName(name, document_.file());
  setWindowTitle(tr("%1%2 · Kindred Acre")
                     .arg(name, document_.modified() ? tr(" (unsaved changes)") : QString()));
}

void MainWindow::showStage(Stage stage) {
  const QString titles[kStages] = {tr("Frame"), tr("Heights"), tr("Strata")};
  showEditor();
  for (size_t i = 0; i < kStages; ++i) pages_[i]->setVisible(i == static_cast<size_t>(stage));
  editorTitle_->setText(titles[static_cast<size_t>(stage)]);
}

void MainWindow::showEditor() {
  // The hidden ones follow when they are chosen.
  switch (strip_->chosen()) {
    case Stage::Frame:
      return frame_->refresh();
    case Stage::Heights:
      return heights_->refresh();
    case Stage::Strata:
      return strata_->refresh();
  }
}

void MainWindow::showStatus() {
  const acre::World& world = *document_.world();
  const acre::Cell cell = hovering_ ? hovered_ : map_->viewpoint().cell;
  const acre::ChunkPos chunk = world.layout().chunkOf(cell);
  const acre::Cell local = world.layout().localOf(cell);
  const acre::CellValue value = world.at(cell);
  const acre::Material* material = world.material(value.material);
  QString what = material                           ? QString::fromStdString(material->name)
                 : value.material == acre::kOutside ? tr("outside the bounds")
                                                    : tr("unassigned: no band");
  if (value.material != acre::kOutside)
    what = tr("height %1 · ").arg(look::number(std::round(value.height * 100) / 100.0)) + what;
  cell_->setText(tr("%1x %2 z %3 · chunk %4, %5 · local %6, %7 · %8")
                     .arg(hovering_ ? QString() : tr("viewpoint "), look::wholeNumber(cell.x),
                          look::wholeNumber(cell.z), look::wholeNumber(chunk.cx),
                          look::wholeNumber(chunk.cz))
                     .arg(local.x)
                     .arg(local.z)
                     .arg(what));
}

void MainWindow::showStream() {
  const acre::StreamStats s = map_->streamStats();
  QString text = tr("%1 of %2 loaded")
                     .arg(look::wholeNumber(static_cast<qint64>(map_->heldChunks())),
                          look::wholeNumber(static_cast<qint64>(s.expected)));
  if (const size_t open = s.waiting + s.working + s.ready; open > 0)
    text += tr(" · %1 waiting").arg(look::wholeNumber(static_cast<qint64>(open)));
  if (s.failed > 0) text += tr(" · %1 failed").arg(s.failed);
  text += tr(" · %1 ms a chunk").arg(s.medianMillis, 0, 'f', 2);
  stream_->setText(text);
  if (s.failed > 0) refuse(QString::fromStdString(map_->failures().front().error.text()));
}

void MainWindow::refuse(const QString& reason) {
  notice_->setText(reason);
  noticeRow_->show();
}

void MainWindow::setSeed(const QString& seed) {
  acre::Recipe next = document_.recipe();
  next.seed = acre::trimmedSeed(seed.toStdString());
  document_.change(tr("Seed %1").arg(seed.trimmed().left(40)), next);
  document_.endGesture();
  title_->setSeed(QString::fromStdString(document_.recipe().seed));  // The old one, when refused.
}

// ---- files -------------------------------------------------------------------------------------

bool MainWindow::mayLeave() {
  if (!document_.modified()) return true;
  switch (dialogs_.askUnsaved(this, QString::fromStdString(document_.recipe().name))) {
    case Dialogs::Unsaved::Save:
      return save();
    case Dialogs::Unsaved::Discard:
      return true;
    case Dialogs::Unsaved::Stay:
      return false;
  }
  return false;
}

bool MainWindow::openWorld(const QString& fileOrDemo) {
  if (!mayLeave()) return false;
  const auto recipe = acre::loadRecipe(fileOrDemo.toStdString());
  if (!recipe) {
    refuse(QString::fromStdString(recipe.error().text()));
    return false;
  }
  const bool isFile = QFileInfo::exists(fileOrDemo);
  if (!document_.open(*recipe, isFile ? QFileInfo(fileOrDemo).absoluteFilePath() : QString()))
    return false;
  if (isFile) settings_.noteFile(document_.file());
  map_->goTo({0, 0});
  return true;
}

bool MainWindow::save() {
  if (document_.file().isEmpty()) return saveAs();
  const auto saved = document_.save(document_.file());
  if (!saved) refuse(QString::fromStdString(saved.error().text()));
  return saved.ok();
}

bool MainWindow::saveAs() {
  QString suggestion = document_.file();
  if (suggestion.isEmpty())
    suggestion = QString::fromStdString(document_.recipe().name)
                     .toLower()
                     .replace(QLatin1Char(' '), QLatin1Char('-')) +
                 QStringLiteral(".acre");
  QString file = dialogs_.saveFile(this, tr("Save world"), kWorldFilter, suggestion);
  if (file.isEmpty()) return false;
  if (QFileInfo(file).suffix().isEmpty() && !QFileInfo(file).isDir())
    file += QStringLiteral(".acre");
  const auto saved = document_.save(file);
  if (!saved) {
    refuse(QString::fromStdString(saved.error().text()));
    return false;
  }
  settings_.noteFile(document_.file());
  return true;
}

void MainWindow::showRecent() {
  recent_->clear();
  for (const QString& file : settings_.recentFiles())
    recent_->addAction(QDir::toNativeSeparators(file), this, [this, file] { openWorld(file); });
  if (recent_->isEmpty()) recent_->addAction(tr("No file yet"))->setEnabled(false);
}

void MainWindow::exportPicture() {
  auto* dialog =
      new ExportDialog(document_.world(), map_->geometry(), map_->picture(), dialogs_, this);
  dialog->setObjectName(QStringLiteral("export"));
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  connect(dialog, &ExportDialog::exported, this, [this](const QString& file) {
    stream_->setText(tr("Written: %1").arg(QDir::toNativeSeparators(file)));
  });
  dialog->open();
}

void MainWindow::closeEvent(QCloseEvent* e) {
  if (!mayLeave()) return e->ignore();
  settings_.setGeometry(saveGeometry());
  e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
  if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
  const QList<QUrl> urls = e->mimeData()->urls();
  if (urls.isEmpty() || !urls.front().isLocalFile()) return;
  e->acceptProposedAction();
  openWorld(urls.front().toLocalFile());
}

// ---- the rest ----------------------------------------------------------------------------------

void MainWindow::askGoTo() {
  const acre::Cell at = map_->viewpoint().cell;
  const auto answer = dialogs_.askText(this, tr("Go to cell"), tr("x, z (whole numbers)"),
                                       QStringLiteral("%1, %2").arg(at.x).arg(at.z));
  if (!answer) return;
  QString text = *answer;
  text.replace(QChar(0x2212), QLatin1Char('-')).replace(QLatin1Char(';'), QLatin1Char(','));
  const QStringList parts = text.split(QLatin1Char(','));
  bool fineX = false, fineZ = false;
  const qint64 x = parts.value(0).trimmed().toLongLong(&fineX);
  const qint64 z = parts.value(1).trimmed().toLongLong(&fineZ);
  constexpr qint64 kFarthest = acre::kMaxCell - (qint64{1} << 30);
  if (parts.size() != 2 || !fineX || !fineZ || std::max(x, z) > kFarthest ||
      std::min(x, z) < -kFarthest) {
    refuse(tr("“%1” is not a cell; accepted: x, z with whole numbers from −2⁶⁰ to 2⁶⁰, for example "
              "−120, 4000")
               .arg(answer->left(60)));
    return;
  }
  map_->goTo({x, z});
  map_->setFocus();
}

void MainWindow::setNight(bool night) {
  settings_.setNight(night);
  look::apply(*qApp, night);
  strip_->refresh();
  showEditor();
}

void MainWindow::finishHint(const QString& hint) {
  QStringList done = settings_.hintsDone();
  if (done.contains(hint)) return;
  settings_.setHintsDone(done << hint);
  showHints();
}

void MainWindow::showHints() {
  const QStringList done = settings_.hintsDone();
  QStringList words;
  for (const Hint& hint : kHints)
    if (!done.contains(QLatin1String(hint.id))) words << tr(hint.text);
  map_->setHint(words.join(QStringLiteral(" · ")));
}

void MainWindow::showHelp() {
  dialogs_.tell(
      this, tr("Keys and pointer"),
      tr("<b>Map</b><br>Drag moves the map, the wheel zooms at the pointer, a double click puts "
         "the "
         "viewpoint there.<br>Arrow keys or WASD drive the viewpoint (Shift: four times as fast), "
         "Home returns to it, + and − zoom, Ctrl+G goes to a cell.<br><br>"
         "<b>Seeds</b><br>R rolls a new one; PgUp and PgDn walk through all there were; Up and "
         "Down in "
         "the seed's field step to the next number.<br><br>"
         "<b>Numbers</b><br>Type them (simple arithmetic works), drag sideways (Shift: fine), or "
         "step "
         "with Up and Down (Shift ten times, Ctrl a tenth) or Alt+wheel. Ctrl+Backspace restores "
         "the "
         "saved value, Esc returns to the map.<br><br>"
         "<b>Views</b><br>1, 2, 3 or Ctrl+PgUp and Ctrl+PgDn choose a stage; G chunks, V view "
         "distance, F6 between map and editor, F11 full screen."));
}

}  // namespace app
