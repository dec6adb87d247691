#include "app/window/main_window.h"
#include "app/objects/objects_editor.h"
#include "app/tiles/tiles_editor.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <utility>

#include "app/edit/frame_editor.h"
#include "app/edit/strata_editor.h"
#include "app/edit/swatch.h"
#include "app/landmarks/landmarks_drawer.h"
#include "app/look/look.h"
#include "app/window/checks_drawer.h"
#include "app/window/legend_card.h"
#include "app/window/stage_switch.h"
#include "audit/holes.h"
#include "base/seed.h"
#include "world/world.h"

namespace app {
namespace {

/// Hints of the first minute, in order; each goes when it has been followed.
struct Hint {
  const char* id;
  const char* text;
};
constexpr Hint kHints[] = {{"drag", QT_TR_NOOP("Drag to move")},
    {"zoom", QT_TR_NOOP("wheel zooms")}, {"drive", QT_TR_NOOP("arrow keys drive the viewpoint")},
    {"plumb", QT_TR_NOOP("click a cell to ask why")}, {"seed", QT_TR_NOOP("PgDn another seed")}};

}  // namespace

MainWindow::MainWindow(acre::Engine& engine, Settings& settings, Dialogs& dialogs, QWidget* parent)
    : QMainWindow(parent),
      settings_(settings),
      dialogs_(dialogs),
      document_(engine),
      statistics_(document_),
      autosave_(document_, settings.autosaveFolder()),
      probe_(engine.executor()),
      start_(engine.executor(), acre::Priority::Statistics) {
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
  panes_ = new Panes(document_, map_);
  panes_->setSmallHeight(settings_.smallPane());
  offer_ = new OfferBar(panes_);
  drawers_ = new Drawers(panes_);
  row->addWidget(drawers_);
  row->addWidget(panes_, 1);
  plumbs_ = new PlumbLines(document_, *map_);
  before_ = new Before(document_, *map_);
  lit_ = new LitGround(document_, *map_);
  navigator_ = new Navigator(document_, *map_, *panes_, *plumbs_);
  courier_ = std::make_shared<Courier<MainWindow>>(this);
  Shell shell{document_, statistics_, *map_, *panes_, dialogs_, *lit_, *navigator_};
  for (const DrawerDef& drawer : allDrawers()) drawers_->add(drawer, drawer.make(shell));
  showing_ = new Showing(document_, *map_, drawers_->content<LegendCard>());
  navigator_->setShowing(showing_);
  level_ = new DepthSlider(map_);
  level_->hide();
  buildEditor(row);
  column->addLayout(row, 1);
  strip_ = new StageStrip(document_);
  column->addWidget(strip_);
  status_ = new StatusRow;
  column->addWidget(status_);
  buildActions();
  connectParts();
  connectMap();
  connectEditors();
  map_->installEventFilter(this);
  map_->setViewDistance(settings_.viewDistance());
  map_->setContours(settings_.contours());
  acre::Style style;
  style.light = settings_.light();
  style.relief = settings_.relief();
  map_->setStyle(style);
  map_->setChunksShown(settings_.chunksShown());
  map_->setRingShown(settings_.ringShown());
  showStage(strip_->chosen());
  recipeChanged();
  worldChanged();
  showHints();
  map_->setFocus();
}

MainWindow::~MainWindow() {
  courier_->close();
  // Editors speak to the document until they are gone, even while they lose the focus; after that
  // the document, whose undo stack says farewell, must find nobody listening.
  delete takeCentralWidget();
  document_.disconnect(this);
}

void MainWindow::resizeEvent(QResizeEvent* e) {
  QMainWindow::resizeEvent(e);
  const bool wide = look::isWide(*this);
  editorPane_->setFixedWidth(wide ? look::kWideEditorWidth : look::kEditorWidth);
  strip_->setTall(wide);
  drawers_->setBeside(wide);
}

// ---- building ----------------------------------------------------------------------------------

void MainWindow::buildTitleRow(QVBoxLayout* column) {
  title_ = new TitleRow(settings_);
  column->addWidget(title_);
  connect(title_, &TitleRow::seedChosen, this, &MainWindow::setSeed);
  connect(title_, &TitleRow::seedLeft, this, [this] { finishHint(QStringLiteral("seed")); });
  connect(
      title_, &TitleRow::chunksShown, this, [this](bool shown) { map_->setChunksShown(shown); });
  connect(title_, &TitleRow::ringShown, this, [this](bool shown) { map_->setRingShown(shown); });
  connect(title_, &TitleRow::viewDistanceChosen, this,
      [this](qint64 cells) { map_->setViewDistance(cells); });
  connect(title_, &TitleRow::refused, this, &MainWindow::refuse);
  connect(title_, &TitleRow::leaveRequested, this, [this] { panes_->focusLarge(); });
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
  auto* note = wordButton(tr("Note"), QStringLiteral("editor.writeNote"),
      tr("Writes down what people should know about the stage"));
  headRow->addWidget(note);
  auto* top = new QFrame;
  top->setFixedHeight(2);
  top->setProperty("role", "edgeTop");
  column->addWidget(top);
  column->addWidget(head);
  notice_ = new Notice;
  column->addWidget(notice_);
  note_ = new StageNote(document_);
  column->addWidget(note_);
  connect(note, &QToolButton::clicked, note_, &StageNote::write);
  connect(note_, &Editor::refused, this, &MainWindow::refuse);
  for (const StagePage& each : allPages()) {
    auto* editor = each.make(document_, statistics_);
    if (each.picture && !editor->previews().hasPicture())
      editor->previews().setPicture(
          [of = each.picture, near = each.near](const acre::World& world, const MapGeometry& view) {
            return fromAbove(world, of(world), view, near);
          });
    auto* page = new QScrollArea;
    page->setWidgetResizable(true);
    page->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    page->setFocusPolicy(Qt::NoFocus);
    page->setWidget(editor);
    column->addWidget(page, 1);
    connect(editor, &Editor::refused, this, &MainWindow::refuse);
    connect(editor, &Editor::leaveRequested, this, [this] { panes_->focusLarge(); });
    connect(editor, &Editor::figuresChanged, this, &MainWindow::showFigures);
    connect(editor, &Editor::switchRequested, this, [this, id = each.id] { switchStage(id); });
    editors_[static_cast<size_t>(each.id)] = editor;
    pages_[static_cast<size_t>(each.id)] = page;
  }
  row->addWidget(editorPane_);
}

// ---- what hears of what ------------------------------------------------------------------------

void MainWindow::connectParts() {
  connect(&document_, &Document::recipeChanged, this, &MainWindow::recipeChanged);
  connect(&document_, &Document::worldChanged, this, &MainWindow::worldChanged);
  connect(&document_, &Document::fileChanged, this, &MainWindow::titleChanged);
  connect(&document_, &Document::refused, this, &MainWindow::refuse);
  connect(&statistics_, &Statistics::changed, this, &MainWindow::showFigures);
  connect(navigator_, &Navigator::refused, this, &MainWindow::refuse);
  connect(navigator_, &Navigator::told, this, [this](const QString& what) { status_->tell(what); });
  connect(navigator_, &Navigator::controlRequested, this, &MainWindow::showPointer);
  connect(navigator_, &Navigator::drawerRequested, drawers_, &Drawers::open);
  connect(strip_, &StageStrip::stageChosen, this, &MainWindow::showStage);
  connect(strip_, &StageStrip::stageSwitched, this, &MainWindow::switchStage);
  connect(strip_, &StageStrip::findingsRequested, this, [this](StageId stage) {
    drawers_->open(QStringLiteral("checks"));
    drawers_->content<ChecksDrawer>().showStage(stage);
  });
  connect(panes_, &Panes::told, this, [this](const QString& what) {
    if (what.isEmpty()) return showStatus();
    status_->tellOfCell(what);
  });
  connect(panes_, &Panes::plumbRequested, navigator_, [this](qint64 x, qint64 y, qint64 z) {
    navigator_->hang({x, z}, y);
  });
  connect(panes_, &Panes::measured, status_, &StatusRow::tell);
  connect(panes_, &Panes::refused, this, &MainWindow::refuse);
  connect(panes_, &Panes::largeChanged, title_, &TitleRow::setPane);
  connect(panes_, &Panes::largeChanged, this, [this] {  // What a walk told is over with it.
    showStream();
    showStatus();
  });
  connect(panes_, &Panes::smallHeightChanged, this,
      [this](int pixels) { settings_.setSmallPane(pixels); });
  connect(title_, &TitleRow::paneChosen, panes_, &Panes::setLarge);
  connect(title_, &TitleRow::pictureChosen, showing_, &Showing::setPicture);
  connect(title_, &TitleRow::upToChosen, showing_, &Showing::setUpTo);
  connect(showing_, &Showing::pictureChanged, this, &MainWindow::showPictures);
  connect(showing_, &Showing::refused, this, &MainWindow::refuse);
  connect(level_, &DepthSlider::chosen, showing_, [this](qint64 y) {
    showing_->setPicture({acre::PictureKind::Slice, {}, {}, false, y});
  });
  connect(plumbs_, &PlumbLines::asked, this, [this] { finishHint(QStringLiteral("plumb")); });
  connect(plumbs_, &PlumbLines::pointerChosen, this, &MainWindow::showPointer);
  connect(plumbs_, &PlumbLines::refused, this, &MainWindow::refuse);
  connect(plumbs_, &PlumbLines::copied, navigator_, &Navigator::copy);
  connect(before_, &Before::said, status_, &StatusRow::tellOfCell);
  connect(before_, &Before::refused, this, &MainWindow::refuse);
  connect(before_, &Before::ended, this, [this] {
    showing_->refresh();
    showStatus();
  });
}

void MainWindow::connectMap() {
  connect(map_, &MapView::hovered, this, [this](bool inside, qint64 x, qint64 z) {
    hovering_ = inside;
    hovered_ = {x, z};
    showStatus();
  });
  connect(map_, &MapView::viewpointMoved, this, &MainWindow::showStatus);
  connect(map_, &MapView::streamChanged, this, &MainWindow::showStream);
  connect(map_, &MapView::worked, strip_, &StageStrip::setBusy);
  connect(map_, &MapView::menuRequested, this, &MainWindow::showMapMenu);
  connect(map_, &MapView::didDrag, this, [this] { finishHint(QStringLiteral("drag")); });
  connect(map_, &MapView::didZoom, this, [this] { finishHint(QStringLiteral("zoom")); });
  connect(map_, &MapView::didDrive, this, [this] { finishHint(QStringLiteral("drive")); });
  connect(map_, &MapView::viewChanged, this, [this] {
    strip_->setView(map_->geometry());
    for (Editor* each : editors_) each->setView(map_->geometry());
    if (std::exchange(shownLevel_, map_->geometry().level()) != map_->geometry().level())
      showing_->refreshLegend();
    showStatus();
  });
  connect(map_, &MapView::sectionChanged, this, [this] {
    heights().setLine(map_->sectionLine());
    climate().fields().setLine(map_->sectionLine());
  });
}

void MainWindow::connectEditors() {
  connectFields(&heights());
  connectFields(&climate().fields());
  BiomesEditor* biomes = &this->biomes();
  connect(biomes, &BiomesEditor::nextHoleRequested, this, &MainWindow::toNextHole);
  connect(
      biomes, &BiomesEditor::patchHovered, this, [this, biomes](bool inside, double x, double y) {
        if (!inside) return lit_->clear();
        lit_->lightPatch(x, y, biomes->chart().slice(), ChartView::kPatch);
      });
  connect(biomes, &BiomesEditor::bandsRequested, this, [this](const QString& biome) {
    strip_->choose(StageId::Strata);
    editor<StrataEditor>().showBandsOf(biome.toStdString());
  });
  ObjectsEditor* objects = &editor<ObjectsEditor>();
  connect(objects, &ObjectsEditor::benchRequested, panes_, &Panes::growTree);
  connect(objects, &ObjectsEditor::pieceFileRequested, this,
      [this, objects](const QString& piece, bool reads) {
        const QString kinds = tr("Pieces (*.txt *.png *.nrrd);;All files (*)");
        const QString file = reads ? dialogs_.openFile(this, tr("Read piece"), kinds)
                                   : dialogs_.saveFile(this, tr("Write piece"), kinds,
                                         piece + QStringLiteral(".nrrd"));
        if (file.isEmpty()) return;
        if (reads)
          objects->readPiece(piece, file);
        else
          objects->writePiece(piece, file);
      });
  connect(&editor<FrameEditor>(), &FrameEditor::begun, this, [this] { arriving_ = true; });
  TilesEditor* tiles = &editor<TilesEditor>();
  connect(tiles, &TilesEditor::refused, this, &MainWindow::refuse);
  connect(tiles, &TilesEditor::told, this, [this](const QString& what) { notice_->tell(what); });
  connect(
      tiles, &TilesEditor::pictureRequested, this, [this, tiles](const QString& set, bool reads) {
        const QString kinds = tr("Pictures (*.png);;All files (*)");
        const QString file = reads ? dialogs_.openFile(this, tr("Tiles from a picture"), kinds)
                                   : dialogs_.saveFile(this, tr("Template of tiles"), kinds,
                                         set + QStringLiteral(".png"));
        if (file.isEmpty()) return;
        if (reads)
          tiles->readPicture(set, file);
        else
          tiles->writePicture(set, file);
      });
  LevelEditor* levels = &this->levels();
  connect(levels, &LevelEditor::replayRequested, this, [this](const QString& process) {
    drawers_->open(QStringLiteral("replay"));
    replay().choose(process);
    replay().setFocus();
  });
  connect(levels, &LevelEditor::roomFileRequested, this,
      [this, levels](const QString& process, const QString& piece) {
        const QString file =
            dialogs_.openFile(this, tr("Prepared room"), tr("Rooms (*.txt *.png);;All files (*)"));
        if (!file.isEmpty()) levels->setRoomFile(process, piece, file);
      });
}

void MainWindow::connectFields(HeightsEditor* editor) {
  connect(editor, &HeightsEditor::layerChanged, this, &MainWindow::showPictures);
  connect(editor, &HeightsEditor::fieldChanged, this, [this] {
    showPictures();
    showFigures();
  });
  connect(editor, &HeightsEditor::aloneRequested, this, [this, editor](const QString& layer) {
    editor->waves().setAlone(layer.toStdString());
    showing_->setPicture(layer.isEmpty() ? acre::Picture{}
                                         : acre::Picture{acre::PictureKind::Layer, editor->field(),
                                               layer.toStdString(), false});
  });
  connect(editor, &HeightsEditor::pictureRequested, this, [this, editor] {
    const QString file =
        dialogs_.openFile(this, tr("Greyscale picture"), tr("PNG pictures (*.png)"));
    if (!file.isEmpty()) editor->addPicture(file);
  });
  connect(&editor->waves(), &WavesView::hovered, map_, &MapView::setLineHair);
}

/// The editor of fields that is in sight, or that of the heights.
HeightsEditor& MainWindow::fieldEditor() {
  return strip_->chosen() == StageId::Climate ? climate().fields() : heights();
}

void MainWindow::switchStage(StageId stage) {
  acre::Recipe next = document_.recipe();
  bool on = false;
  if (const QString why = app::switchStage(next, stage, on); !why.isEmpty()) return refuse(why);
  document_.change(on ? tr("Switch stage on") : tr("Switch stage off"), next);
  document_.endGesture();
}

// ---- following the document --------------------------------------------------------------------

void MainWindow::recipeChanged() {
  showEditor();
  title_->setSeed(QString::fromStdString(document_.recipe().seed));
  notice_->clear();
  titleChanged();
}

void MainWindow::worldChanged() {
  showing_->refresh();
  panes_->refresh();
  plumbs_->refresh();
  drawers_->content<LandmarksDrawer>().refresh();
  replay().refresh();
  showEditor();
  strip_->refresh();
  showStatus();
  if (document_.current() && std::exchange(arriving_, false)) arrive();
}

void MainWindow::titleChanged() {
  const QString name = QString::fromStdString(document_.recipe().name);
  title_->setName(name, document_.file());
  setWindowTitle(tr("%1%2 · Kindred Acre")
                     .arg(name, document_.modified() ? tr(" (unsaved changes)") : QString()));
}

// ---- what the map shows ------------------------------------------------------------------------

void MainWindow::placeLevel() {
  const QRect picture = map_->pictureRect();
  level_->setGeometry(picture.right() - level_->width() - 8, picture.top() + 8, level_->width(),
      std::min(420, std::max(60, picture.height() - 44)));
}

void MainWindow::showPictures() {
  const bool sliced = map_->picture().kind == acre::PictureKind::Slice;
  if (sliced) {
    level_->setRange(document_.world()->vertical(), document_.world()->seaLevel());
    level_->setLevel(map_->picture().level);
    placeLevel();
  }
  level_->setVisible(sliced);
  if (map_->picture().kind != acre::PictureKind::Layer) {
    heights().waves().setAlone({});
    climate().fields().waves().setAlone({});
  }
  title_->setPictures(
      document_.recipe(), map_->picture(), fieldEditor().field(), fieldEditor().chosenLayer());
}

void MainWindow::showFigures() {
  strip_->setFigures(statistics_);
  editorFigures_->setText(editorOf(strip_->chosen()).figures());
}

void MainWindow::toNextHole() {
  // A tile without a picture is one in the borders.
  if (strip_->chosen() == StageId::Tiles)
    if (const auto hole = editor<TilesEditor>().hole()) return navigator_->visit(*hole);
  status_->tell(tr("Looking for a hole…"));
  document_.engine().executor().submit(acre::Priority::Statistics,
      [courier = courier_, world = document_.world(), from = map_->viewpoint().cell] {
        auto hole = acre::nearestHole(*world, from);
        if (!hole) {  // Far from here only a sample of the whole world can tell.
          const auto census = acre::censusOfSample(*world);
          if (!census->biomes.empty() && census->biomes.back().index == acre::kNoBiome)
            hole = census->biomes.back().example;
          else
            hole = census->firstHole;
        }
        courier->deliver([world, hole](MainWindow& self) {
          self.showStream();
          if (!hole)
            return self.refuse(world->biomes()
                                   ? tr("No hole: every cell that was looked at has a biome and a "
                                        "material.")
                                   : tr("No hole: every cell that was looked at has a material."));
          self.navigator_->visit(*hole);
        });
      });
}

void MainWindow::showPointer(const QString& pointer) {
  const std::string at = pointer.toStdString();
  const StageId stage = acre::stageOf(at);
  strip_->choose(stage);
  editorOf(stage).showPointer(at);
}

// ---- before, and commands ----------------------------------------------------------------------

bool MainWindow::eventFilter(QObject* watched, QEvent* e) {
  if (watched == map_ && (e->type() == QEvent::KeyPress || e->type() == QEvent::KeyRelease)) {
    const auto* key = static_cast<QKeyEvent*>(e);
    if (key->key() == Qt::Key_B && !(key->modifiers() & Qt::ControlModifier)) {
      if (!key->isAutoRepeat()) before_->show(e->type() == QEvent::KeyPress);
      return true;
    }
  }
  if (watched == map_ && e->type() == QEvent::Resize) placeLevel();
  if (watched == map_ && e->type() == QEvent::FocusOut) before_->show(false);
  return QMainWindow::eventFilter(watched, e);
}

void MainWindow::showStage(StageId stage) {
  showEditor();
  for (const acre::StageDef& each : acre::allStages())
    pages_[static_cast<size_t>(each.id)]->setVisible(each.id == stage);
  editorTitle_->setText(tr(acre::defOf(stage).title));
  note_->setStage(stage);
  showFigures();
}

void MainWindow::showEditor() {
  editorOf(strip_->chosen()).refresh();  // The hidden ones follow when they are chosen.
  note_->refresh();
}

/// The cell is asked about elsewhere: caves take some milliseconds, which the pointer must not
/// wait for.
void MainWindow::showStatus() {
  if (before_->shown()) return;
  const acre::Cell cell = hovering_ ? hovered_ : map_->viewpoint().cell;
  heights().waves().setHair(hovering_ ? map_->alongLine(cell) : -1);
  const bool chart = strip_->chosen() == StageId::Biomes && hovering_;
  const auto ask = [world = document_.world(), cell, chart] {
    Seen seen{world->at(cell), {}, 0};
    if (chart && world->biomes()) {
      float x = 0, y = 0;
      world->columns().chartValues(1, &cell, &x, &y, &seen.base, acre::Accuracy::Exact);
      seen.chart = QPointF(x, y);
    }
    return seen;
  };
  probe_.ask(ask, [this, world = document_.world(), cell, hovering = hovering_](const Seen& seen) {
    if (world == document_.world()) showSeen(*world, cell, hovering, seen);
  });
}

void MainWindow::showSeen(
    const acre::World& world, acre::Cell cell, bool underPointer, const Seen& seen) {
  if (before_->shown()) return;
  const bool known = underPointer && seen.value.material != acre::kOutside;
  heights().histogram().setHair(known && heights().field() == acre::kHeightsId
                                    ? std::optional(static_cast<double>(seen.value.height))
                                    : std::nullopt);
  if (strip_->chosen() == StageId::Biomes) biomes().setHair(seen.chart, seen.base);
  status_->showCell(world, cell, seen.value, underPointer);
}

void MainWindow::showStream() {
  if (panes_->large() == Panes::Large::Walk) return;  // Its own figures stand there.
  const acre::StreamStats s = map_->streamStats();
  status_->showStream(s);
  if (s.failed > 0) refuse(QString::fromStdString(map_->failures().front().error.text()));
}

void MainWindow::refuse(const QString& reason) {
  notice_->warn(reason);
}

void MainWindow::setSeed(const QString& seed) {
  acre::Recipe next = document_.recipe();
  next.seed = acre::trimmedSeed(seed.toStdString());
  document_.change(tr("Seed %1").arg(seed.trimmed().left(40)), next);
  document_.endGesture();
  title_->setSeed(QString::fromStdString(document_.recipe().seed));  // The old one, when refused.
}

// ---- the rest ----------------------------------------------------------------------------------

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

}  // namespace app

#include "moc_main_window.cpp"
