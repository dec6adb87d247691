// The drawers Landmarks and Replay, and the ways from them into the views.
#include <QScrollArea>
#include <QShortcut>

#include "app/document/command_line.h"
#include "app/landmarks/landmarks_drawer.h"
#include "app/window/main_window.h"

namespace app {

void MainWindow::buildLandmarks() {
  landmarks_ = new LandmarksDrawer(document_, *map_);
  drawers_->add(tr("Landmarks"), QStringLiteral("landmarks"), landmarks_, 468);
  connect(landmarks_, &LandmarksDrawer::linesChanged, this,
      [this](const std::shared_ptr<const CaveLines>& lines) {
        map_->setCaves(lines);
        panes_->section().setCaves(lines);
        panes_->walk().view().setCaves(lines);
      });
  connect(&landmarks_->spaces(), &SpacesList::pictureChanged, map_, &MapView::setSpaces);
  connect(&landmarks_->spaces(), &SpacesList::goToRequested, this,
      [this](qint64 x, qint64 y, qint64 z) {
        plumbs_->hang({x, z}, false, y);
      });
  const auto remember = [this] {
    if (!cameFrom_) cameFrom_ = CameFrom{map_->viewpoint().cell, panes_->large()};
  };
  connect(landmarks_, &LandmarksDrawer::goToRequested, this, [this, remember](qint64 x, qint64 z) {
    remember();
    if (panes_->large() == Panes::Large::Walk) panes_->setLarge(Panes::Large::Map);
    map_->goTo({x, z});
  });
  connect(landmarks_, &LandmarksDrawer::walkRequested, this,
      [this, remember](const acre::TunnelStage::Handle& system, bool along) {
        remember();
        drawers_->open({});  // It would lie over half of the view.
        panes_->setLarge(Panes::Large::Walk);
        panes_->walk().lightLamp();
        panes_->walk().view().enter(system, along);
        panes_->focusLarge();
      });
  connect(landmarks_, &LandmarksDrawer::commandRequested, this, [this](const QString& rest) {
    copy(commandFor(document_, QStringLiteral("find"), rest), tr("command"));
  });
  const auto goBack = [this] {
    if (!cameFrom_) return;
    panes_->setLarge(cameFrom_->large);
    map_->goTo(cameFrom_->cell);
    cameFrom_.reset();
  };
  connect(landmarks_, &LandmarksDrawer::backRequested, this, goBack);
  connect(
      new QShortcut(Qt::Key_Escape, &panes_->walk().view(), nullptr, nullptr, Qt::WidgetShortcut),
      &QShortcut::activated, this, goBack);
}

void MainWindow::buildReplay() {
  replay_ = new ReplayDrawer(document_);
  auto* page = new QScrollArea;
  page->setWidgetResizable(true);
  page->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  page->setFrameShape(QFrame::NoFrame);
  page->setWidget(replay_);
  constexpr int kWidth = 372;
  drawers_->add(tr("Replay"), QStringLiteral("replay"), page, kWidth);
  // A floor that is seen whole stays so beside the drawer.
  connect(replay_, &ReplayDrawer::shownChanged, map_, [this](bool shown) {
    if (ofLevel() && map_->fitted())
      map_->fit(
          planOf(*document_.world()).bounds(), shown ? kWidth - map_->pictureRect().left() : 0);
  });
  connect(replay_, &ReplayDrawer::pictureChanged, map_, &MapView::setSpaces);
}

}  // namespace app
