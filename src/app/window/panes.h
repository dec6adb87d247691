/// Map, section, walk and the tree bench: one fills the large pane, its partner the small one
/// below.
#pragma once

#include <QSplitter>
#include <QWidget>

#include "app/document/document.h"
#include "app/map/map_view.h"
#include "app/objects/tree_bench.h"
#include "app/section/section_view.h"
#include "app/section/side_overview.h"
#include "app/walk/walk_pane.h"

namespace app {

/// Keeps the three views together: one line A-B, one hair along it, one viewpoint.
class Panes : public QWidget {
  Q_OBJECT

 public:
  enum class Large { Map, Section, Walk, Trees };

  Panes(Document& document, MapView* map, QWidget* parent = nullptr);

  void setLarge(Large large);
  Large large() const { return large_; }
  /// Whether the small pane shows at all.
  void setSmallShown(bool shown);
  bool smallShown() const { return smallShown_; }
  /// Its height; less where there is no room for it.
  /// 0: what suits the window.
  void setSmallHeight(int pixels);
  int smallHeight() const { return small_; }
  SectionView& section() { return *section_; }
  /// In the small pane under the section of a side world, of which a map would be a line.
  SideOverview& overview() { return *overview_; }
  WalkPane& walk() { return *walk_; }
  TreeBench& bench() { return *bench_; }
  /// Puts a style of trees on the bench, in the large pane.
  void growTree(const QString& style);
  /// Shows a river in place of the section's cut, and its course on the map; nothing: none.
  void showRiver(std::shared_ptr<const acre::RiverProfile> profile, const QString& name);
  /// Rings a lake on the map instead.
  void ringLake(qint64 x, qint64 z, const QString& name);
  /// Follows the document's world.
  void refresh();
  /// Gives the focus to the view in the large pane.
  void focusLarge();

 signals:
  void largeChanged(Panes::Large large);
  void told(const QString& what);         ///< What the pointer is over; empty: nothing.
  void measured(const QString& figures);  ///< Of the walk view.
  void plumbRequested(qint64 x, qint64 y, qint64 z);
  void refused(const QString& reason);
  void smallHeightChanged(int pixels);  ///< By hand.

 protected:
  void resizeEvent(QResizeEvent*) override;

 private:
  void arrange();
  void share();
  void followLine();
  void followWalk();
  void drawRiver(int point);

  Document& document_;
  QSplitter* splitter_;
  MapView* map_;
  SectionView* section_;
  SideOverview* overview_;
  bool sideways_ = false;  ///< The world is one of the kind side.
  WalkPane* walk_;
  TreeBench* bench_;
  Large large_ = Large::Map;
  bool smallShown_ = true;
  int small_ = 0;  ///< As high as it was made by hand; 0: as the window asks.
  bool following_ = false;
  std::shared_ptr<const acre::RiverProfile> shownRiver_;
  std::shared_ptr<const acre::World> riverWorld_;  // Whose it is.
  QString riverName_;
};

}  // namespace app
