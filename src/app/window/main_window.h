/// The sheet: title row, map, stage editor, stage strip and status row, and the actions of the
/// menus.
#pragma once

#include <QLabel>
#include <QMainWindow>
#include <QScrollArea>

#include "app/biome/biomes_editor.h"
#include "app/biome/climate_editor.h"
#include "app/document/autosave.h"
#include "app/document/document.h"
#include "app/document/probe.h"
#include "app/document/statistics.h"
#include "app/edit/heights_editor.h"
#include "app/edit/stage_note.h"
#include "app/level/level_editor.h"
#include "app/level/replay_drawer.h"
#include "app/map/depth_slider.h"
#include "app/map/lit_ground.h"
#include "app/map/map_view.h"
#include "app/map/plumb_lines.h"
#include "app/overlay/computed.h"
#include "app/traverse/proof_panel.h"
#include "app/traverse/traverse_drawer.h"
#include "app/window/before.h"
#include "app/window/census_drawer.h"
#include "app/window/dialogs.h"
#include "app/window/drawers.h"
#include "app/window/navigator.h"
#include "app/window/notice.h"
#include "app/window/offer_bar.h"
#include "app/window/panes.h"
#include "app/window/settings.h"
#include "app/window/showing.h"
#include "app/window/stage_strip.h"
#include "app/window/status_row.h"
#include "app/window/title_row.h"

namespace app {

class MainWindow : public QMainWindow {
  Q_OBJECT

 public:
  MainWindow(acre::Engine& engine, Settings& settings, Dialogs& dialogs, QWidget* parent = nullptr);
  ~MainWindow() override;

  /// Opens a recipe file or a built-in demo; false (with the reason in the notice) when refused.
  bool openWorld(const QString& fileOrDemo);
  /// A new world that goes on from one of acre::starts(), not saved in any file.
  bool beginWorld(const QString& start);

  /// Looks for what a program that was killed left. beside: a world was asked for, which stays:
  /// what was found is offered.
  void recoverLost(bool beside);
  /// The program is about to be ended from outside: unsaved changes are kept for the next start.
  void keepUnsaved() { autosave_.saveNow(); }

  Document& document() { return document_; }
  MapView& map() { return *map_; }
  HeightsEditor& heights() { return editor<HeightsEditor>(); }
  ClimateEditor& climate() { return editor<ClimateEditor>(); }
  BiomesEditor& biomes() { return editor<BiomesEditor>(); }
  LevelEditor& levels() { return editor<LevelEditor>(); }
  PlumbCard& plumbCard() { return plumbs_->card(); }
  Statistics& statistics() { return statistics_; }
  LitGround& litGround() { return *lit_; }
  CensusDrawer& census() { return drawers_->content<CensusDrawer>(); }
  TraverseDrawer& traverse() { return drawers_->content<TraverseDrawer>(); }
  ProofPanel& proof() { return drawers_->content<ProofPanel>(); }
  ReplayDrawer& replay() { return drawers_->content<ReplayDrawer>(); }
  Drawers& drawers() { return *drawers_; }
  Panes& panes() { return *panes_; }
  PlumbLines& plumbs() { return *plumbs_; }
  StageStrip& strip() { return *strip_; }
  Navigator& navigator() { return *navigator_; }
  Showing& showing() { return *showing_; }
  /// The sentence of the last refusal; empty when none is shown.
  QString notice() const { return notice_->text(); }

 protected:
  void closeEvent(QCloseEvent*) override;
  bool eventFilter(QObject*, QEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void arrive();
  void buildTitleRow(QVBoxLayout* column);
  void buildEditor(QHBoxLayout* row);
  void connectParts();
  void connectMap();
  void connectEditors();
  void buildActions();
  void buildFileMenu();
  void buildEditMenu();
  void buildViewMenu();
  void buildMapLines(QMenu* view);
  void buildRelief(QMenu* view);
  void buildDrawing(QMenu* view);
  void buildKeys();
  void addTiles(QMenu* view, QMenu* over);
  void addOverlay(QMenu* view, const QString& text, const QString& name, Over place,
      ComputedOverlay::Make make, bool on = false);
  void askContours();
  void askLight();
  /// An action that stays on.
  QAction* addTick(QMenu* menu, const QString& text, const QString& name, bool on);
  QAction* addAction(QMenu* menu, const QString& text, const QString& name,
      const QKeySequence& keys, std::function<void()> run);

  void recipeChanged();
  void worldChanged();
  void titleChanged();
  void showStage(StageId stage);
  /// The editor of a class.
  template <class E>
  E& editor() const {
    for (Editor* each : editors_)
      if (auto* found = qobject_cast<E*>(each)) return *found;
    qFatal("no stage has a %s", E::staticMetaObject.className());
  }
  Editor& editorOf(StageId stage) { return *editors_[static_cast<size_t>(stage)]; }
  void switchStage(StageId stage);
  void connectFields(HeightsEditor* editor);
  HeightsEditor& fieldEditor();
  void showEditor();
  void showPictures();
  void placeLevel();
  void showFigures();
  void showPointer(const QString& pointer);
  void showMapMenu(QPoint global);
  QString mapCommand() const;
  void toNextHole();
  void showStatus();
  /// What is told of the cell under the pointer, or of the viewpoint's.
  struct Seen {
    acre::CellValue value;
    std::optional<QPointF> chart;
    float base = 0;
  };
  void showSeen(const acre::World& world, acre::Cell cell, bool underPointer, const Seen& seen);
  void showStream();
  void refuse(const QString& reason);
  void setSeed(const QString& seed);
  void setNight(bool night);
  void finishHint(const QString& hint);
  void showHints();
  bool mayLeave();
  void askOpen();
  bool save();
  bool saveAs();
  void exportPicture();
  void askGoTo();
  /// Where one enters the world, once it is found.
  void goToStart();
  void showRecent();
  void showHelp();

  Settings& settings_;
  Dialogs& dialogs_;
  Document document_;
  Statistics statistics_;
  Autosave autosave_;

  TitleRow* title_;
  MapView* map_;
  Panes* panes_;
  QWidget* editorPane_;
  QLabel* editorTitle_;
  QLabel* editorFigures_;
  Notice* notice_;
  StageNote* note_;
  OfferBar* offer_;
  std::array<Editor*, acre::kStageCount> editors_{};
  std::array<QScrollArea*, acre::kStageCount> pages_{};
  StageStrip* strip_;
  StatusRow* status_;
  QMenu* recent_;
  PlumbLines* plumbs_;
  Navigator* navigator_;
  Before* before_;
  DepthSlider* level_ = nullptr;  // Of slices; hidden for other pictures.
  Showing* showing_;
  LitGround* lit_;
  Drawers* drawers_;
  std::shared_ptr<Courier<MainWindow>> courier_;
  int shownLevel_ = -1;
  Probe<Seen> probe_;
  Probe<std::optional<acre::Cell>> start_;
  bool hovering_ = false;
  bool arriving_ = false;  ///< The world was begun anew and is not there yet.
  acre::Cell hovered_;
};

}  // namespace app
