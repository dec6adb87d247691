// What the menus and keys of the window do.
#include <QActionGroup>
#include <QKeySequence>
#include <QMenu>
#include <QMenuBar>
#include <QShortcut>
#include <algorithm>
#include <cmath>

#include "app/document/command_line.h"
#include "app/edit/arithmetic.h"
#include "app/look/look.h"
#include "app/overlay/border_crossers.h"
#include "app/overlay/object_signs.h"
#include "app/overlay/pen_signs.h"
#include "app/overlay/refused_places.h"
#include "app/overlay/region_sites.h"
#include "app/overlay/river_network.h"
#include "app/overlay/tile_layer.h"
#include "app/overlay/tunnel_lattice.h"
#include "app/overlay/way_obstacles.h"
#include "app/window/main_window.h"
#include "audit/world_start.h"
#include "recipe/edits.h"
#include "world/demos.h"

namespace app {

QAction* MainWindow::addAction(QMenu* menu, const QString& text, const QString& name,
    const QKeySequence& keys, std::function<void()> run) {
  auto* action = menu->addAction(text);
  action->setObjectName(name);
  action->setShortcut(keys);
  connect(action, &QAction::triggered, this, std::move(run));
  return action;
}

QAction* MainWindow::addTick(QMenu* menu, const QString& text, const QString& name, bool on) {
  QAction* action = addAction(menu, text, name, {}, [] {});
  action->setCheckable(true);
  action->setChecked(on);
  return action;
}

void MainWindow::buildActions() {
  buildFileMenu();
  buildEditMenu();
  buildViewMenu();
  auto* help = menuBar()->addMenu(tr("&Help"));
  addAction(help, tr("&Keys and pointer"), QStringLiteral("help.keys"), QKeySequence(Qt::Key_F1),
      [this] { showHelp(); });
  buildKeys();
}

void MainWindow::buildFileMenu() {
  auto* file = menuBar()->addMenu(tr("&File"));
  addAction(file, tr("&New world"), QStringLiteral("file.new"), QKeySequence::New, [this] {
    if (!mayLeave()) return;
    plumbs_->takeUp();  // Of a world that is no more.
    document_.open(newRecipe(), {});
    strip_->choose(StageId::Frame);
    arrive();
  });
  auto* startMenu = file->addMenu(tr("New world &from"));
  for (const acre::Demo& start : acre::starts()) {
    const QString name = QString::fromStdString(start.name);
    addAction(startMenu, name, QStringLiteral("file.start.") + name, {},
        [this, name] { beginWorld(name); });
  }
  addAction(
      file, tr("&Open…"), QStringLiteral("file.open"), QKeySequence::Open, [this] { askOpen(); });
  recent_ = file->addMenu(tr("Open &recent"));
  connect(recent_, &QMenu::aboutToShow, this, &MainWindow::showRecent);
  auto* demoMenu = file->addMenu(tr("Open &demo"));
  for (const acre::Demo& demo : acre::demos()) {
    const QString name = QString::fromStdString(demo.name);
    addAction(
        demoMenu, name, QStringLiteral("file.demo.") + name, {}, [this, name] { openWorld(name); });
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
}

void MainWindow::buildEditMenu() {
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
  addAction(
      seed, tr("&Roll a new seed\tR"), QStringLiteral("seed.roll"), {}, [this] { title_->roll(); });
  addAction(seed, tr("&Earlier seed\tPgUp"), QStringLiteral("seed.earlier"), {},
      [this] { title_->earlier(); });
  addAction(
      seed, tr("&Later seed\tPgDn"), QStringLiteral("seed.later"), {}, [this] { title_->later(); });
}

void MainWindow::buildViewMenu() {
  auto* view = menuBar()->addMenu(tr("&View"));
  addAction(view, tr("&Go to cell…"), QStringLiteral("view.goTo"), QKeySequence(tr("Ctrl+G")),
      [this] { askGoTo(); });
  addAction(view, tr("Go to the &start"), QStringLiteral("view.start"),
      QKeySequence(tr("Ctrl+Shift+G")), [this] { goToStart(); });
  addAction(view, tr("&Back to the viewpoint\tHome"), QStringLiteral("view.home"), {},
      [this] { map_->backToViewpoint(); });
  addAction(view, tr("Zoom &in"), QStringLiteral("view.zoomIn"), QKeySequence(tr("Ctrl++")),
      [this] { map_->zoomCentre(0.5); });
  addAction(view, tr("Zoom &out"), QStringLiteral("view.zoomOut"), QKeySequence(tr("Ctrl+-")),
      [this] { map_->zoomCentre(2); });
  view->addSeparator();
  for (const auto& [text, name, keys, large] :
      {std::tuple(tr("&Map"), "view.map", "Ctrl+1", Panes::Large::Map),
          std::tuple(tr("&Section"), "view.section", "Ctrl+2", Panes::Large::Section),
          std::tuple(tr("&Walk"), "view.walk", "Ctrl+3", Panes::Large::Walk),
          std::tuple(tr("&Trees"), "view.trees", "Ctrl+4", Panes::Large::Trees)})
    addAction(view, text, QLatin1String(name), QKeySequence(QLatin1String(keys)),
        [this, large = large] { panes_->setLarge(large); });
  QAction* small = addTick(view, tr("Small &pane below"), QStringLiteral("view.small"), true);
  connect(small, &QAction::toggled, panes_, &Panes::setSmallShown);
  view->addSeparator();
  buildMapLines(view);
  view->addSeparator();
  addAction(view, tr("Next &hole\tH"), QStringLiteral("view.hole"), {}, [this] { toNextHole(); });
  addAction(view, tr("Copy the map as a co&mmand"), QStringLiteral("view.copyMap"), {},
      [this] { navigator_->copy(mapCommand(), tr("command")); });
  buildDrawing(view);
  view->addSeparator();
  QAction* night = addTick(view, tr("&Night"), QStringLiteral("view.night"), settings_.night());
  night->setShortcut(QKeySequence(tr("Ctrl+Shift+N")));
  connect(night, &QAction::toggled, this, &MainWindow::setNight);
  addAction(view, tr("&Full screen"), QStringLiteral("view.full"), QKeySequence(Qt::Key_F11),
      [this] { setWindowState(windowState() ^ Qt::WindowFullScreen); });
}

/// What lies over the ground, and how waves are drawn.
void MainWindow::buildMapLines(QMenu* view) {
  QAction* line =
      addTick(view, tr("Section &line A–B\tShift+L"), QStringLiteral("view.line"), true);
  connect(line, &QAction::toggled, map_, &MapView::setLineShown);
  connect(new QShortcut(
              QKeySequence(Qt::SHIFT | Qt::Key_L), map_, nullptr, nullptr, Qt::WidgetShortcut),
      &QShortcut::activated, line, &QAction::toggle);
  addAction(view, tr("Section line along the &view"), QStringLiteral("view.lineHome"), {},
      [this] { map_->resetLine(); });
  connect(addTick(view, tr("Section &patterns"), QStringLiteral("view.patterns"), true),
      &QAction::toggled, &panes_->section(), &SectionView::setPatterns);
  addAction(view, tr("&Contour lines…"), QStringLiteral("view.contours"),
      QKeySequence(tr("Ctrl+L")), [this] { askContours(); });
  addAction(view, tr("Relief &light…"), QStringLiteral("view.light"), {}, [this] { askLight(); });
  buildRelief(view);
  QAction* same =
      addTick(view, tr("Waves in &true scale"), QStringLiteral("view.trueScale"), false);
  QAction* place =
      addTick(view, tr("Bracket keeps the &place"), QStringLiteral("view.keepPlace"), true);
  place->setToolTip(
      tr("Dragging a wave's bracket moves the sampling offset, so that the ground under\n"
         "the bracket's left end stays."));
  for (HeightsEditor* editor : {&heights(), &climate().fields()}) {
    connect(same, &QAction::toggled, &editor->waves(), &WavesView::setTrueScale);
    connect(place, &QAction::toggled, &editor->waves(), &WavesView::setKeepPlace);
  }
  QAction* borders =
      addTick(view, tr("&Borders of biomes as lines"), QStringLiteral("view.borders"), false);
  connect(borders, &QAction::toggled, showing_, &Showing::setBorders);
  // A menu of their own: with all of them the other would be taller than a small screen.
  QMenu* over = view->addMenu(tr("O&ver the ground"));
  addTiles(view, over);
  addOverlay(over, tr("S&quares and sites of regions"), QStringLiteral("view.sites"), Over::Sites,
      &RegionSites::make);
  addOverlay(over, tr("Networ&k of rivers"), QStringLiteral("view.rivers"), Over::Rivers,
      &RiverNetwork::make);
  addOverlay(over, tr("Obstacles and wa&ys through them"), QStringLiteral("view.obstacles"),
      Over::Obstacles, &WayObstacles::make);
  addOverlay(over, tr("Si&gns of objects"), QStringLiteral("view.objects"), Over::Objects,
      &ObjectSigns::make, true);
  addOverlay(over, tr("Places re&fused to objects"), QStringLiteral("view.refused"), Over::Refused,
      &RefusedPlaces::make);
  addOverlay(over, tr("Ob&jects over borders of chunks"), QStringLiteral("view.crossers"),
      Over::Crossers, &BorderCrossers::make);
  addOverlay(over, tr("Lattice costs of t&unnels"), QStringLiteral("view.lattice"), Over::Lattice,
      &TunnelLattice::make);
}

/// Tiles and signs of the pen lie over pictures of what the ground is made of, and over no other.
void MainWindow::addTiles(QMenu* view, QMenu* over) {
  auto* pen = new ComputedOverlay(document_, *map_, Over::PenSigns, &PenSigns::make);
  QAction* drawn = addTick(view, tr("Signs of the &pen, from 5 pixels a cell on"),
      QStringLiteral("view.penSigns"), settings_.penSigns());
  const auto draw = [this, pen, drawn] {
    const acre::Picture& picture = showing_->state().picture;
    const bool on = drawn->isChecked() && picture.kind == acre::PictureKind::Composite;
    if (on != pen->on()) pen->setOn(on);
  };
  connect(drawn, &QAction::toggled, pen, [this, draw](bool on) {
    settings_.setPenSigns(on);
    draw();
  });
  connect(showing_, &Showing::pictureChanged, pen, draw);
  draw();
  const auto kept = std::make_shared<KeptArts>();
  auto* tiles = new ComputedOverlay(document_, *map_, Over::Tiles,
      [kept](const acre::World& world, const MapGeometry& seen, const std::stop_token& stop) {
        return TileLayer::make(world, seen, *kept, stop);
      });
  QAction* shown =
      addTick(view, tr("&Tiles, from 8 pixels a cell on"), QStringLiteral("view.tiles"), true);
  const auto set = [this, tiles, shown] {
    const acre::PictureKind kind = showing_->state().picture.kind;
    const bool ofGround =
        kind == acre::PictureKind::Composite || kind == acre::PictureKind::Material;
    if (const bool on = shown->isChecked() && ofGround; on != tiles->on()) tiles->setOn(on);
  };
  connect(shown, &QAction::toggled, tiles, set);
  connect(showing_, &Showing::pictureChanged, tiles, set);
  set();
  addOverlay(over, tr("&Grid and masks of tiles, opposite corners, missing pictures"),
      QStringLiteral("view.tileMarks"), Over::TileMarks,
      [kept](const acre::World& world, const MapGeometry& seen, const std::stop_token& stop) {
        return TileMarks::make(world, seen, *kept, stop);
      });
}

void MainWindow::askContours() {
  const auto answer = dialogs_.askText(this, tr("Contour lines"),
      tr("Altitude between two lines; “zoom”: as suits the picture; 0 for none"),
      settings_.contours() < 0 ? tr("zoom")
                               : look::number(settings_.contours() > 0 ? settings_.contours() : 5));
  if (!answer) return;
  const bool byZoom = answer->trimmed().compare(tr("zoom"), Qt::CaseInsensitive) == 0;
  const auto interval = byZoom ? std::optional(MapView::kByZoom) : evaluate(*answer);
  if (!interval || !(byZoom || *interval == 0 || (*interval >= 0.001 && *interval <= 1e6)))
    return refuse(
        tr("“%1” is no interval; accepted: zoom, 0, or 0.001 to 1,000,000").arg(answer->left(40)));
  settings_.setContours(*interval);
  map_->setContours(*interval);
}

void MainWindow::askLight() {
  const auto answer = dialogs_.askText(this, tr("Relief light"),
      tr("Degrees clockwise from north that the light comes from (315 is north-west)"),
      look::number(map_->style().light));
  if (!answer) return;
  const auto degrees = evaluate(*answer);
  if (!degrees || !(std::abs(*degrees) <= 360))
    return refuse(tr("“%1” is no direction; accepted: −360 to 360 degrees").arg(answer->left(40)));
  settings_.setLight(*degrees);
  acre::Style style = map_->style();
  style.light = *degrees;
  map_->setStyle(style);
  panes_->walk().view().setSun(*degrees);
}

/// An overlay that is worked out for what is in view.
void MainWindow::addOverlay(QMenu* view, const QString& text, const QString& name, Over place,
    ComputedOverlay::Make make, bool on) {
  auto* overlay = new ComputedOverlay(document_, *map_, place, std::move(make));
  connect(addTick(view, text, name, on), &QAction::toggled, overlay, &ComputedOverlay::setOn);
  overlay->setOn(on);
}

/// How strongly slopes are lit.
void MainWindow::buildRelief(QMenu* view) {
  QMenu* menu = view->addMenu(tr("&Relief"));
  auto* strengths = new QActionGroup(this);
  const std::tuple<QString, const char*, double> offered[] = {{tr("&None"), "none", 0.0},
      {tr("&Faint"), "faint", 0.4}, {tr("&Plain"), "plain", acre::Style::kRelief},
      {tr("&Strong"), "strong", 1.0}};
  for (const auto& [text, name, strength] : offered) {
    addAction(menu, text, QStringLiteral("view.relief.") + QLatin1String(name), {},
        [this, to = strength] {
          settings_.setRelief(to);
          acre::Style style = map_->style();
          style.relief = to;
          map_->setStyle(style);
        });
    QAction* action = menu->actions().back();
    action->setCheckable(true);
    action->setChecked(std::abs(settings_.relief() - strength) < 0.01);
    strengths->addAction(action);
  }
}

/// Who draws the walk view.
void MainWindow::buildDrawing(QMenu* view) {
  QMenu* drawing = view->addMenu(tr("Walk view &drawn by"));
  auto* drawers = new QActionGroup(this);
  const std::tuple<QString, QString, WalkView::Backend> backends[] = {
      {tr("&OpenGL where hardware draws it"), QStringLiteral("view.drawAuto"),
          WalkView::Backend::Automatic},
      {tr("The &processor"), QStringLiteral("view.drawSoftware"), WalkView::Backend::Software},
      {tr("Open&GL"), QStringLiteral("view.drawGl"), WalkView::Backend::OpenGl}};
  for (const auto& [text, name, backend] : backends) {
    addAction(drawing, text, name, {}, [this, kind = backend] {
      settings_.setWalkDrawing(static_cast<int>(kind));
      panes_->walk().view().setBackend(kind);
      if (kind == WalkView::Backend::OpenGl && !glSupport().there)
        refuse(tr("There is no OpenGL 3.3 here; the processor draws."));
    });
    QAction* action = drawing->actions().back();
    action->setCheckable(true);
    action->setChecked(settings_.walkDrawing() == static_cast<int>(backend));
    drawers->addAction(action);
  }
  panes_->walk().view().setSun(settings_.light());
  panes_->walk().view().setBackend(static_cast<WalkView::Backend>(settings_.walkDrawing()));
}

void MainWindow::buildKeys() {
  const auto shortcut = [this](const QKeySequence& keys, std::function<void()> run) {
    connect(new QShortcut(keys, this), &QShortcut::activated, this, std::move(run));
  };
  const auto stage = [this](int by) {
    if (const auto to = strip_->beside(by)) strip_->choose(*to);
  };
  shortcut(QKeySequence(tr("Ctrl+PgDown")), [stage] { stage(1); });
  shortcut(QKeySequence(tr("Ctrl+PgUp")), [stage] { stage(-1); });
  shortcut(QKeySequence(Qt::Key_F6), [this] {
    if (!map_->hasFocus()) return map_->setFocus();
    QWidget* page = &editorOf(strip_->chosen());
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
  for (const DrawerDef& drawer : allDrawers())
    if (drawer.key != 0)
      mapKey(QKeySequence(drawer.key),
          [this, name = QLatin1String(drawer.name)] { drawers_->toggle(name); });
  mapKey(QKeySequence(Qt::Key_H), [this] { toNextHole(); });
  mapKey(QKeySequence(Qt::Key_Backspace), [this] { plumbs_->goBack(); });
  mapKey(QKeySequence(Qt::Key_Escape), [this] { plumbs_->takeUp(); });
  mapKey(QKeySequence(Qt::Key_G), [this] { title_->toggleChunks(); });
  mapKey(QKeySequence(Qt::Key_V), [this] { title_->toggleRing(); });
  for (const StagePage& page : allPages())
    mapKey(QKeySequence(Qt::Key_0 + page.digit), [this, id = page.id] {
      const auto shown = strip_->shown();
      if (std::find(shown.begin(), shown.end(), id) != shown.end()) strip_->choose(id);
    });
}

void MainWindow::showHelp() {
  QStringList drawers;
  for (const DrawerDef& drawer : allDrawers())
    if (drawer.key != 0)
      drawers << tr("%1 opens %2").arg(QKeySequence(drawer.key).toString(), tr(drawer.title));
  dialogs_.tell(this, tr("Keys and pointer"),
      tr("<b>Map</b><br>Drag moves the map, the wheel zooms at the pointer, a double click puts "
         "the "
         "viewpoint there, a click asks why a cell is what it is (Shift+click: what "
         "differs).<br>Arrow keys or WASD drive the viewpoint (Shift: four times as fast), "
         "Home returns to it, + and − zoom, Ctrl+G goes to a cell, Ctrl+Shift+G to where one "
         "enters the world, "
         "Ctrl+arrows move the cell cursor and Enter asks, Backspace goes back a question, B held "
         "shows the world before the last change, H goes to a hole, %1. Shift+L shows the section "
         "line.<br><br>"
         "<b>Replay</b><br>Space plays and pauses, Left and Right step, Home and End go to the "
         "ends.<br><br>"
         "<b>Waves</b><br>Drag a wave up or down for its amplitude, its bracket for its width. Up "
         "and "
         "Down choose, Left and Right the handle, + and − change, Alt+Up and Alt+Down reorder, "
         "Space "
         "switches, Del deletes, Enter goes to the numbers.<br><br>"
         "<b>Stakes</b><br>Tab chooses, Left and Right move, V and S say whether value or share is "
         "held, "
         "Enter types, Insert splits, Del removes.<br><br>"
         "<b>Seeds</b><br>R rolls a new one; PgUp and PgDn walk through all there were; Up and "
         "Down in "
         "the seed's field step to the next number.<br><br>"
         "<b>Numbers</b><br>Type them (simple arithmetic works), drag sideways (Shift: fine), or "
         "step "
         "with Up and Down (Shift ten times, Ctrl a tenth) or Alt+wheel. Ctrl+Backspace restores "
         "the "
         "saved value, Esc returns to the map.<br><br>"
         "<b>Views</b><br>1 to 9, 0 or Ctrl+PgUp and Ctrl+PgDn choose a stage; G chunks, V view "
         "distance, F6 between map and editor, F11 full screen.")
          .arg(drawers.join(tr(", "))));
}

QString MainWindow::mapCommand() const {
  const MapGeometry& g = map_->geometry();
  if (map_->overlays().has(Over::Tiles))
    return commandFor(document_, QStringLiteral("map"),
        QStringLiteral("--centre %1,%2 --size %3x%4 --show tiles --zoom %5 --out map.png")
            .arg(g.centre.cell.x)
            .arg(g.centre.cell.z)
            .arg(std::max<qint64>(1, std::llround(g.size.width() * g.cellsPerPixel)))
            .arg(std::max<qint64>(1, std::llround(g.size.height() * g.cellsPerPixel)))
            .arg(std::llround(1 / g.cellsPerPixel)));
  const int64_t step = int64_t{1} << g.level();
  const double scale = g.cellsPerPixel / static_cast<double>(step);
  acre::MapRequest request;
  const auto width =
      static_cast<int32_t>(std::max<qint64>(1, std::llround(g.size.width() * scale)));
  const auto height =
      static_cast<int32_t>(std::max<qint64>(1, std::llround(g.size.height() * scale)));
  request.grid = {
      g.centre.cell.x - width / 2 * step, g.centre.cell.z - height / 2 * step, step, width, height};
  request.show = map_->picture();
  request.style = map_->style();
  request.style.contours = map_->contourInterval();
  return mapCommandFor(document_, request);
}

void MainWindow::showMapMenu(QPoint global) {
  QMenu menu(this);
  const acre::Cell cell = hovering_ ? hovered_ : map_->cursorCell();
  menu.addAction(
      tr("Why is this cell what it is?\tclick"), this, [this, cell] { navigator_->hang(cell); });
  if (plumbs_->hanging())
    menu.addAction(tr("What differs from the plumb line?\tShift+click"), this,
        [this, cell] { plumbs_->hang(cell, true); });
  menu.addAction(
      tr("Put the viewpoint here\tdouble click"), this, [this, cell] { map_->goTo(cell); });
  if (!map_->failures().empty())
    menu.addAction(tr("Ask again for the chunks that failed"), map_, &MapView::retryFailed);
  menu.addSeparator();
  menu.addAction(tr("Copy this picture as a command"), this,
      [this] { navigator_->copy(mapCommand(), tr("command")); });
  menu.addAction(tr("Copy the figures as a command"), this,
      [this] { navigator_->copyCommand(QStringLiteral("census")); });
  menu.addAction(tr("Copy the checks as a command"), this,
      [this] { navigator_->copyCommand(QStringLiteral("check")); });
  menu.addAction(tr("Copy the cell's coordinates"), this, [this, cell] {
    navigator_->copy(QStringLiteral("%1,%2").arg(cell.x).arg(cell.z), tr("coordinates"));
  });
  menu.exec(global);
}

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
    refuse(
        tr("“%1” is not a cell; accepted: x, z with whole numbers from −2⁶⁰ to 2⁶⁰, for example "
           "−120, 4000")
            .arg(answer->left(60)));
    return;
  }
  map_->goTo({x, z});
  map_->setFocus();
}

void MainWindow::goToStart() {
  status_->tell(tr("Looking for a place to enter the world…"));
  start_.ask(
      [world = document_.world()]() -> std::optional<acre::Cell> {
        const auto found = acre::worldStart(*world);
        if (!found || !found->has_value()) return {};
        return (*found)->cell;
      },
      [this, world = document_.world()](const std::optional<acre::Cell>& cell) {
        if (world != document_.world()) return;
        if (!cell)
          return refuse(
              tr("Nobody can enter this world: within %1 cells of the origin one cannot "
                 "walk about on dry ground.")
                  .arg(look::wholeNumber(acre::kStartWithin)));
        map_->goTo(*cell);
        status_->tell(tr("One enters the world at x %1 z %2.")
                          .arg(look::wholeNumber(cell->x), look::wholeNumber(cell->z)));
      });
}

}  // namespace app
