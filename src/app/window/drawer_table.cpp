#include "app/window/drawer_table.h"

#include <QShortcut>
#include <QVBoxLayout>

#include "app/hand/hand_drawer.h"
#include "app/landmarks/landmarks_drawer.h"
#include "app/level/replay_drawer.h"
#include "app/look/look.h"
#include "app/traverse/proof_panel.h"
#include "app/traverse/traverse_drawer.h"
#include "app/window/census_drawer.h"
#include "app/window/checks_drawer.h"
#include "app/window/legend_card.h"

namespace app {
namespace {

QWidget* makeCensus(Shell& shell) {
  auto* census = new CensusDrawer(shell.document);
  Navigator* to = &shell.navigator;
  QObject::connect(census, &CensusDrawer::biomeLit, &shell.map, [&lit = shell.lit](int biome) {
    if (biome < 0) return lit.clear();
    lit.lightBiome(static_cast<acre::BiomeIndex>(biome));
  });
  QObject::connect(census, &CensusDrawer::goToRequested, to, [to](qint64 x, qint64 z) {
    to->visit({x, z});
  });
  QObject::connect(census, &CensusDrawer::commandRequested, to, [to](const QString& area) {
    to->copyCommand(
        QStringLiteral("census"), area.isEmpty() ? QString() : QStringLiteral("--area ") + area);
  });
  QObject::connect(census, &CensusDrawer::refused, to, &Navigator::refused);
  QObject::connect(&shell.map, &MapView::viewChanged, census,
      [census, &map = shell.map] { census->setView(map.geometry(), map.viewpoint().cell); });
  return census;
}

/// What is chosen among rivers and lakes, on the map, in the section and on foot.
template <class GoThere>
void connectWaters(WatersList& waters, Shell& shell, GoThere&& goThere) {
  Navigator* to = &shell.navigator;
  Panes* panes = &shell.panes;
  QObject::connect(&waters, &WatersList::riverChosen, panes, &Panes::showRiver);
  QObject::connect(&waters, &WatersList::lakeChosen, panes, &Panes::ringLake);
  QObject::connect(&waters, &WatersList::goToRequested, to, goThere);
  QObject::connect(&waters, &WatersList::walkRequested, to,
      [to, panes](const std::shared_ptr<const acre::RiverProfile>& river) {
        to->leave();
        emit to->drawerRequested({});  // It would lie over half of the view.
        panes->setLarge(Panes::Large::Walk);
        panes->walk().view().follow(*river);
        panes->focusLarge();
      });
}

QWidget* makeLandmarks(Shell& shell) {
  auto* landmarks = new LandmarksDrawer(shell.document, shell.map);
  Navigator* to = &shell.navigator;
  MapView* map = &shell.map;
  Panes* panes = &shell.panes;
  QObject::connect(landmarks, &LandmarksDrawer::linesChanged, panes,
      [panes, map](const std::shared_ptr<const CaveLines>& lines) {
        map->overlays().set(Over::Caves, lines);
        panes->walk().view().setCaves(lines);
      });
  const auto showSpaces = [map](const std::shared_ptr<const SpacesPicture>& spaces) {
    map->overlays().set(Over::Spaces, spaces);
  };
  QObject::connect(&landmarks->spaces(), &SpacesList::pictureChanged, map, showSpaces);
  QObject::connect(
      &landmarks->spaces(), &SpacesList::goToRequested, to, [to](qint64 x, qint64 y, qint64 z) {
        to->hang({x, z}, y);
      });
  const auto goThere = [to, panes](qint64 x, qint64 z) {
    to->leave();
    if (panes->large() == Panes::Large::Walk) panes->setLarge(Panes::Large::Map);
    to->goTo({x, z});
  };
  QObject::connect(landmarks, &LandmarksDrawer::goToRequested, to, goThere);
  connectWaters(landmarks->waters(), shell, goThere);
  QObject::connect(&landmarks->objects(), &ObjectsList::goToRequested, to, goThere);
  QObject::connect(&landmarks->objects(), &ObjectsList::askRequested, to, [to](qint64 x, qint64 z) {
    to->visit({x, z});
  });
  QObject::connect(landmarks, &LandmarksDrawer::walkRequested, to,
      [to, panes](const acre::TunnelStage::Handle& system, bool along) {
        to->leave();
        emit to->drawerRequested({});  // It would lie over half of the view.
        panes->setLarge(Panes::Large::Walk);
        panes->walk().lightLamp();
        panes->walk().view().enter(system, along);
        panes->focusLarge();
      });
  QObject::connect(landmarks, &LandmarksDrawer::commandRequested, to,
      [to](const QString& rest) { to->copyCommand(QStringLiteral("find"), rest); });
  QObject::connect(landmarks, &LandmarksDrawer::backRequested, to, &Navigator::goBack);
  QObject::connect(
      new QShortcut(Qt::Key_Escape, &panes->walk().view(), nullptr, nullptr, Qt::WidgetShortcut),
      &QShortcut::activated, to, &Navigator::goBack);
  return landmarks;
}

constexpr int kReplayWidth = 372;

QWidget* makeReplay(Shell& shell) {
  auto* replay = new ReplayDrawer(shell.document);
  MapView* map = &shell.map;
  // A floor that is seen whole stays so beside the drawer.
  QObject::connect(
      replay, &ReplayDrawer::shownChanged, map, [map, &document = shell.document](bool shown) {
        if (document.recipe().frame.kind != acre::WorldKind::Level || !map->fitted()) return;
        map->fit(planOf(*document.world()).bounds(),
            shown && !look::isWide(*map->window()) ? kReplayWidth - map->pictureRect().left() : 0);
      });
  QObject::connect(replay, &ReplayDrawer::pictureChanged, map,
      [map](const std::shared_ptr<const SpacesPicture>& floor) {
        map->overlays().set(Over::Spaces, floor);
      });
  BasinPanel* basin = &replay->basin();
  QObject::connect(basin, &BasinPanel::recordRequested, map,
      [basin, map] { basin->record(map->viewpoint().cell); });
  QObject::connect(
      basin, &BasinPanel::shown, map, [map](const std::shared_ptr<const MapOverlay>& step) {
        map->overlays().set(Over::Basin, step);
      });
  QObject::connect(map, &MapView::hovered, replay, [replay](bool inside, qint64 x, qint64 z) {
    replay->hover(inside, {x, z});
  });
  return replay;
}

QWidget* makeTraverse(Shell& shell) {
  auto* both = new QWidget;
  auto* column = new QVBoxLayout(both);
  column->setContentsMargins(0, 0, 0, 0);
  auto* traverse =
      new TraverseDrawer(shell.document, shell.document.engine(), shell.map, shell.dialogs);
  auto* proof = new ProofPanel(shell.document);
  column->addWidget(traverse);
  column->addWidget(proof, 1);
  Navigator* to = &shell.navigator;
  QObject::connect(traverse, &TraverseDrawer::refused, to, &Navigator::refused);
  QObject::connect(traverse, &TraverseDrawer::commandRequested, to,
      [to](const QString& rest) { to->copyCommand(QStringLiteral("traverse"), rest); });
  QObject::connect(proof, &ProofPanel::goToRequested, to, [to](qint64 x, qint64 z) {
    to->visit({x, z});
  });
  QObject::connect(
      proof, &ProofPanel::commandRequested, to, [to] { to->copyCommand(QStringLiteral("prove")); });
  return both;
}

QWidget* makeHand(Shell& shell) {
  auto* hand = new HandDrawer(shell.document, shell.map, shell.panes.section(), shell.dialogs);
  Navigator* to = &shell.navigator;
  QObject::connect(hand, &HandDrawer::refused, to, &Navigator::refused);
  QObject::connect(hand, &HandDrawer::goToRequested, to,
      [to, &document = shell.document](qint64 x, qint64 y, qint64 z) {
        to->visit({x, z}, document.recipe().frame.blocks() ? std::optional(y) : std::nullopt);
      });
  return hand;
}

QWidget* makeChecks(Shell& shell) {
  auto* checks = new ChecksDrawer(shell.document, shell.statistics);
  Navigator* to = &shell.navigator;
  QObject::connect(checks, &ChecksDrawer::controlRequested, to, &Navigator::controlRequested);
  QObject::connect(checks, &ChecksDrawer::refused, to, &Navigator::refused);
  QObject::connect(checks, &ChecksDrawer::goToRequested, to, [to](qint64 x, qint64 z) {
    to->visit({x, z});
  });
  return checks;
}

constexpr DrawerDef kDrawers[] = {
    {"census", QT_TR_NOOP("Census"),
        QT_TR_NOOP("Shares, pieces and neighbours of biomes, counted."), 392, 0, false, makeCensus},
    {"landmarks", QT_TR_NOOP("Landmarks"),
        QT_TR_NOOP("Cave systems, open spaces, rivers and lakes, listed and gone to."), 468,
        Qt::Key_L, false, makeLandmarks},
    {"replay", QT_TR_NOOP("Replay"),
        QT_TR_NOOP("How the processes of a level made its floor, or water a lake, step by step."),
        kReplayWidth, Qt::Key_P, true, makeReplay},
    {"traverse", QT_TR_NOOP("Traverse"),
        QT_TR_NOOP("Drives a route and tells whether chunks come in time; proves the borders."),
        408, 0, true, makeTraverse},
    {"hand", QT_TR_NOOP("By hand"),
        QT_TR_NOOP("Cells and blocks that were changed by hand, and the brush."), 392, 0, false,
        makeHand},
    {"legend", QT_TR_NOOP("Legend"), QT_TR_NOOP("What the colours of the map mean."), 300, 0, true,
        [](Shell&) -> QWidget* { return new LegendCard; }},
    {"checks", QT_TR_NOOP("Checks"),
        QT_TR_NOOP("Everything that the checks found, with what would mend it."), 392, Qt::Key_F,
        false, makeChecks},
};

}  // namespace

std::span<const DrawerDef> allDrawers() {
  return kDrawers;
}

}  // namespace app
