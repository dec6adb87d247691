#include "app/window/main_window.h"

#include <QApplication>
#include <QClipboard>
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

#include "app/document/command_line.h"
#include "app/edit/arithmetic.h"
#include "app/look/look.h"
#include "app/window/export_dialog.h"
#include "app/window/stage_switch.h"
#include "audit/holes.h"
#include "base/seed.h"
#include "output/legend.h"
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
                           {"plumb", QT_TR_NOOP("click a cell to ask why")},
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
      statistics_(document_),
      autosave_(document_, settings.autosaveFolder()) {
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
  drawers_ = new Drawers(map_);
  row->addWidget(drawers_);
  row->addWidget(map_, 1);
  plumbs_ = new PlumbLines(document_, *map_);
  before_ = new Before(document_, *map_);
  lit_ = new LitGround(document_, *map_);
  courier_ = std::make_shared<Courier<MainWindow>>(this);
  buildDrawers();
  buildEditor(row);
  column->addLayout(row, 1);
  strip_ = new StageStrip(document_);
  column->addWidget(strip_);
  buildStatusRow(column);
  buildActions();

  connect(&document_, &Document::recipeChanged, this, &MainWindow::recipeChanged);
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
    climate_->fields().setView(map_->geometry());
    census_->setView(map_->geometry(), map_->viewpoint().cell);
    if (std::exchange(shownLevel_, map_->geometry().level()) != map_->geometry().level())
      legend_->setEntries(acre::legendOf(*document_.world(), map_->picture(),
                                         int64_t{1} << map_->geometry().level()));
    showStatus();
  });
  connect(map_, &MapView::didDrag, this, [this] { finishHint(QStringLiteral("drag")); });
  connect(map_, &MapView::didZoom, this, [this] { finishHint(QStringLiteral("zoom")); });
  connect(map_, &MapView::sectionChanged, this, [this] {
    heights_->setLine(map_->sectionLine());
    climate_->fields().setLine(map_->sectionLine());
  });
  connect(map_, &MapView::menuRequested, this, &MainWindow::showMapMenu);
  connect(plumbs_, &PlumbLines::asked, this, [this] { finishHint(QStringLiteral("plumb")); });
  connect(plumbs_, &PlumbLines::pointerChosen, this, &MainWindow::showPointer);
  connect(plumbs_, &PlumbLines::refused, this, &MainWindow::refuse);
  connect(plumbs_, &PlumbLines::copied, this, &MainWindow::copy);
  connect(before_, &Before::said, cell_, &QLabel::setText);
  connect(before_, &Before::refused, this, &MainWindow::refuse);
  connect(before_, &Before::ended, this, [this] {
    showUpTo(upTo_);
    showStatus();
  });
  connect(&statistics_, &Statistics::changed, this, &MainWindow::showFigures);
  connectFields(heights_);
  connectFields(&climate_->fields());
  connect(climate_, &ClimateEditor::switchRequested, this, [this] { switchStage(Stage::Climate); });
  connect(biomes_, &BiomesEditor::switchRequested, this, [this] { switchStage(Stage::Biomes); });
  connect(biomes_, &BiomesEditor::nextHoleRequested, this, &MainWindow::toNextHole);
  connect(biomes_, &BiomesEditor::patchHovered, this, [this](bool inside, double x, double y) {
    if (!inside) return lit_->clear();
    lit_->lightPatch(x, y, biomes_->chart().slice(), ChartView::kPatch);
  });
  connect(biomes_, &BiomesEditor::bandsRequested, this, [this](const QString& biome) {
    strip_->choose(Stage::Strata);
    strata_->showBandsOf(biome.toStdString());
  });
  connect(strip_, &StageStrip::stageSwitched, this, &MainWindow::switchStage);
  map_->installEventFilter(this);
  map_->setContours(settings_.contours());
  map_->setStyle({settings_.light(), 0});
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

// ---- building ----------------------------------------------------------------------------------

void MainWindow::buildTitleRow(QVBoxLayout* column) {
  title_ = new TitleRow(settings_);
  column->addWidget(title_);
  connect(title_, &TitleRow::seedChosen, this, &MainWindow::setSeed);
  connect(title_, &TitleRow::seedLeft, this, [this] { finishHint(QStringLiteral("seed")); });
  connect(title_, &TitleRow::pictureChosen, this, &MainWindow::showPicture);
  connect(title_, &TitleRow::upToChosen, this, &MainWindow::showUpTo);
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
  heights_ = new HeightsEditor(document_, statistics_);
  climate_ = new ClimateEditor(document_, statistics_);
  biomes_ = new BiomesEditor(document_, statistics_);
  strata_ = new StrataEditor(document_, statistics_);
  Editor* editors[kStages] = {frame_, heights_, climate_, biomes_, strata_};
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

void MainWindow::connectFields(HeightsEditor* editor) {
  connect(editor, &HeightsEditor::layerChanged, this, &MainWindow::showPictures);
  connect(editor, &HeightsEditor::fieldChanged, this, [this] {
    showPictures();
    showFigures();
  });
  connect(editor, &HeightsEditor::aloneRequested, this, [this, editor](const QString& layer) {
    editor->waves().setAlone(layer.toStdString());
    showPicture(layer.isEmpty() ? acre::Picture{}
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
  return strip_->chosen() == Stage::Climate ? climate_->fields() : *heights_;
}

void MainWindow::switchStage(Stage stage) {
  acre::Recipe next = document_.recipe();
  bool on = false;
  if (const QString why = app::switchStage(next, stage, on); !why.isEmpty()) return refuse(why);
  document_.change(on ? tr("Switch stage on") : tr("Switch stage off"), next);
  document_.endGesture();
}

void MainWindow::buildDrawers() {
  census_ = new CensusDrawer(document_);
  drawers_->add(tr("Census"), QStringLiteral("census"), census_, 392);
  connect(census_, &CensusDrawer::biomeLit, this, [this](int biome) {
    if (biome < 0) return lit_->clear();
    lit_->lightBiome(static_cast<acre::BiomeIndex>(biome));
  });
  connect(census_, &CensusDrawer::goToRequested, this, [this](qint64 x, qint64 z) {
    map_->goTo({x, z});
    plumbs_->hang({x, z}, false);
  });
  connect(census_, &CensusDrawer::commandRequested, this, [this](const QString& area) {
    copy(commandFor(document_, QStringLiteral("census"),
                    area.isEmpty() ? QString() : QStringLiteral("--area ") + area),
         tr("command"));
  });
  connect(census_, &CensusDrawer::refused, this, &MainWindow::refuse);
  legend_ = new LegendCard;
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setWidget(legend_);
  drawers_->add(tr("Legend"), QStringLiteral("legend"), scroll, 300);
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

// ---- following the document --------------------------------------------------------------------

void MainWindow::recipeChanged() {
  showEditor();
  title_->setSeed(QString::fromStdString(document_.recipe().seed));
  noticeRow_->hide();
  notice_->clear();
  titleChanged();
}

void MainWindow::worldChanged() {
  showUpTo(upTo_);
  showPictures();
  plumbs_->refresh();
  showEditor();
  strip_->refresh();
  showStatus();
}

void MainWindow::titleChanged() {
  const QString name = QString::fromStdString(document_.recipe().name);
  title_->setName(name, document_.file());
  setWindowTitle(tr("%1%2 · Kindred Acre")
                     .arg(name, document_.modified() ? tr(" (unsaved changes)") : QString()));
}

// ---- what the map shows ------------------------------------------------------------------------

void MainWindow::showPictures() {
  title_->setPictures(document_.recipe(), map_->picture(), fieldEditor().field(),
                      fieldEditor().chosenLayer());
}

void MainWindow::showPicture(const acre::Picture& picture) {
  chosenPicture_ = picture;
  showUpTo(upTo_);
  showPictures();
}

void MainWindow::showUpTo(int stage) {
  upTo_ = stage;
  acre::Picture picture = chosenPicture_;
  // A picture of something that went away, or was switched off, is none.
  if (!acre::checkPicture(*document_.world(), picture)) picture = {};
  if (picture.kind != acre::PictureKind::Layer) {
    heights_->waves().setAlone({});
    climate_->fields().waves().setAlone({});
  }
  auto world = document_.world();
  // The stages offered are the frame, the heights and the biomes, in the order of the list.
  const bool frame = stage == 0, heights = stage == 1, biomes = stage == 2;
  if (frame || heights) {
    acre::Recipe less = document_.recipe();
    less.heightsOn = less.heightsOn && !frame;
    less.biomes.on = false;
    if (less != world->recipe())
      if (auto compiled = document_.engine().compile(less)) world = *compiled;
  }
  if (!acre::checkPicture(*world, picture)) picture = {};
  if ((frame || heights) && !picture.isData()) picture = {acre::PictureKind::Height, {}, {}, false};
  if (biomes && !picture.isData() && !picture.ofBiomes() && world->biomes())
    picture = {acre::PictureKind::Biome, {}, {}, false};
  picture.borders = bordersShown_ && world->biomes();
  const acre::Recipe& recipe = document_.recipe();
  QString note;
  const bool things =
      picture.kind == acre::PictureKind::Composite || picture.kind == acre::PictureKind::Material;
  if (things && !recipe.strataOn)
    note = tr("Strata are switched off, so nothing has a material.");
  else if (things && recipe.bands.empty() && world->bandsAreEmpty())
    note = tr("Strata: no band yet, so nothing has a material. Add one in Strata.");
  else if (!recipe.heightsOn || frame)
    note = tr("Heights take no part: flat at 0.");
  else if (recipe.heights.layers.empty())
    note = tr("Heights: no layer yet, flat at 0. Add one in Heights.");
  map_->setEmptyNote(note);
  map_->show(world, picture);
  legend_->setEntries(acre::legendOf(*world, picture, int64_t{1} << map_->geometry().level()));
}

void MainWindow::showFigures() {
  strip_->setFigures(statistics_);
  const Stage stage = strip_->chosen();
  const bool fields =
      stage == Stage::Heights || (stage == Stage::Climate && document_.recipe().climate.on);
  editorFigures_->setText(fields                   ? fieldEditor().figures()
                          : stage == Stage::Biomes ? biomes_->figures()
                                                   : QString());
}

void MainWindow::toNextHole() {
  stream_->setText(tr("Looking for a hole…"));
  document_.engine().executor().submit(
      acre::Priority::Statistics,
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
          self.map_->goTo(*hole);
          self.plumbs_->hang(*hole, false);
        });
      });
}

void MainWindow::showPointer(const QString& pointer) {
  const std::string at = pointer.toStdString();
  if (at.starts_with("/frame")) return strip_->choose(Stage::Frame);
  if (at.starts_with("/strata")) {
    strip_->choose(Stage::Strata);
    strata_->showPointer(at);
    return;
  }
  if (at.starts_with("/climate")) {
    strip_->choose(Stage::Climate);
    climate_->showPointer(at);
    return;
  }
  if (at.starts_with("/biomes")) {
    if (at.find("/bands/") != std::string::npos) {
      strip_->choose(Stage::Strata);
      strata_->showPointer(at);
      return;
    }
    strip_->choose(Stage::Biomes);
    biomes_->showPointer(at);
    return;
  }
  strip_->choose(Stage::Heights);
  heights_->showPointer(at);
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
  if (watched == map_ && e->type() == QEvent::FocusOut) before_->show(false);
  return QMainWindow::eventFilter(watched, e);
}

QString MainWindow::mapCommand() const {
  const MapGeometry& g = map_->geometry();
  const int64_t step = int64_t{1} << g.level();
  const double scale = g.cellsPerPixel / static_cast<double>(step);
  QString rest = QStringLiteral("--centre %1,%2 --size %3x%4 --step %5 --show %6")
                     .arg(g.centre.cell.x)
                     .arg(g.centre.cell.z)
                     .arg(std::max<qint64>(1, std::llround(g.size.width() * scale)))
                     .arg(std::max<qint64>(1, std::llround(g.size.height() * scale)))
                     .arg(step)
                     .arg(QString::fromStdString(acre::nameOf(map_->picture())));
  if (map_->picture().borders) rest += QStringLiteral(" --borders");
  if (map_->contourInterval() > 0)
    rest += QStringLiteral(" --contours %1").arg(map_->contourInterval());
  if (map_->style().light != 315) rest += QStringLiteral(" --light %1").arg(map_->style().light);
  return commandFor(document_, QStringLiteral("map"), rest + QStringLiteral(" --out map.png"));
}

void MainWindow::copy(const QString& text, const QString& what) {
  QGuiApplication::clipboard()->setText(text);
  stream_->setText(commandLacksChanges(document_)
                       ? tr("Copied the %1; unsaved changes are not in the file yet").arg(what)
                       : tr("Copied the %1").arg(what));
}

void MainWindow::showMapMenu(QPoint global) {
  QMenu menu(this);
  const acre::Cell cell = hovering_ ? hovered_ : map_->cursorCell();
  menu.addAction(tr("Why is this cell what it is?\tclick"), this,
                 [this, cell] { plumbs_->hang(cell, false); });
  if (plumbs_->hanging())
    menu.addAction(tr("What differs from the plumb line?\tShift+click"), this,
                   [this, cell] { plumbs_->hang(cell, true); });
  menu.addAction(tr("Put the viewpoint here\tdouble click"), this,
                 [this, cell] { map_->goTo(cell); });
  menu.addSeparator();
  menu.addAction(tr("Copy this picture as a command"), this,
                 [this] { copy(mapCommand(), tr("command")); });
  menu.addAction(tr("Copy the figures as a command"), this,
                 [this] { copy(commandFor(document_, QStringLiteral("census")), tr("command")); });
  menu.addAction(tr("Copy the checks as a command"), this,
                 [this] { copy(commandFor(document_, QStringLiteral("check")), tr("command")); });
  menu.addAction(tr("Copy the cell's coordinates"), this, [this, cell] {
    copy(QStringLiteral("%1,%2").arg(cell.x).arg(cell.z), tr("coordinates"));
  });
  menu.exec(global);
}

void MainWindow::showStage(Stage stage) {
  const QString titles[kStages] = {tr("Frame"), tr("Heights"), tr("Climate"), tr("Biomes"),
                                   tr("Strata")};
  showEditor();
  for (size_t i = 0; i < kStages; ++i) pages_[i]->setVisible(i == static_cast<size_t>(stage));
  editorTitle_->setText(titles[static_cast<size_t>(stage)]);
  showFigures();
}

void MainWindow::showEditor() {
  // The hidden ones follow when they are chosen.
  switch (strip_->chosen()) {
    case Stage::Frame:
      return frame_->refresh();
    case Stage::Heights:
      return heights_->refresh();
    case Stage::Climate:
      return climate_->refresh();
    case Stage::Biomes:
      return biomes_->refresh();
    case Stage::Strata:
      return strata_->refresh();
  }
}

void MainWindow::showStatus() {
  if (before_->shown()) return;
  const acre::World& world = *document_.world();
  const acre::Cell cell = hovering_ ? hovered_ : map_->viewpoint().cell;
  const acre::ChunkPos chunk = world.layout().chunkOf(cell);
  const acre::Cell local = world.layout().localOf(cell);
  const acre::CellValue value = world.at(cell);
  const bool known = hovering_ && value.material != acre::kOutside;
  heights_->histogram().setHair(known && heights_->field() == acre::kHeightsId
                                    ? std::optional(static_cast<double>(value.height))
                                    : std::nullopt);
  heights_->waves().setHair(hovering_ ? map_->alongLine(cell) : -1);
  showChartHair(world, cell);
  const acre::Material* material = world.material(value.material);
  QString what = material                           ? QString::fromStdString(material->name)
                 : value.material == acre::kOutside ? tr("outside the bounds")
                                                    : tr("unassigned: no band");
  if (value.material != acre::kOutside)
    what = tr("height %1 · ").arg(look::number(std::round(value.height * 100) / 100.0)) + what;
  if (world.biomes() && value.biome != acre::kOutsideBiome) {
    const acre::Biome* biome = world.biome(value.biome);
    const QString name = biome ? QString::fromStdString(biome->name) : tr("no rule covers it");
    if (!what.endsWith(name)) what += QStringLiteral(" · ") + name;
  }
  cell_->setText(tr("%1x %2 z %3 · chunk %4, %5 · local %6, %7 · %8")
                     .arg(hovering_ ? QString() : tr("viewpoint "), look::wholeNumber(cell.x),
                          look::wholeNumber(cell.z), look::wholeNumber(chunk.cx),
                          look::wholeNumber(chunk.cz))
                     .arg(local.x)
                     .arg(local.z)
                     .arg(what));
}

void MainWindow::showChartHair(const acre::World& world, acre::Cell cell) {
  if (strip_->chosen() != Stage::Biomes) return;
  if (!hovering_ || !world.biomes()) return biomes_->setHair({}, 0);
  float x = 0, y = 0, base = 0;
  world.chartValues(1, &cell, &x, &y, &base);
  biomes_->setHair(QPointF(x, y), base);
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
  plumbs_->takeUp();
  if (!document_.open(*recipe, isFile ? QFileInfo(fileOrDemo).absoluteFilePath() : QString(),
                      fileOrDemo))
    return false;
  if (isFile) settings_.noteFile(document_.file());
  map_->goTo({0, 0});
  return true;
}

void MainWindow::recoverLost() {
  const auto found = autosave_.findLost();
  if (!found) return;
  if (document_.recover(found->recipe, found->file)) {
    Autosave::drop(*found);
    refuse(
        tr("Recovered unsaved changes of “%1”. Save keeps them; Undo goes back to what was saved.")
            .arg(QString::fromStdString(found->recipe.name)));
  }
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
  document_.finish();
  auto* dialog = new ExportDialog(document_.world(), map_->geometry(), map_->picture(),
                                  {map_->style().light, map_->contourInterval()}, dialogs_, this);
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
  autosave_.clear();
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
