/// How a floor became what it is: each process step by step, on the map and in figures; in worlds
/// with water, how a hollow became a lake or a way out of it was cut.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/transport.h"
#include "app/landmarks/spaces_list.h"
#include "app/look/plot.h"
#include "app/water/basin_panel.h"
#include "cave/level.h"
#include "cave/replay.h"

namespace app {

/// Space plays and pauses, Left and Right step, Home and End go to the ends.
class ReplayDrawer : public QWidget {
  Q_OBJECT

 public:
  explicit ReplayDrawer(Document& document, QWidget* parent = nullptr);
  ~ReplayDrawer() override;
  void refresh();
  /// Shows one process of the level.
  void choose(const QString& process);
  bool settled() const { return !recording_; }
  int steps() const;
  int step() const { return transport_->step(); }
  const acre::Replay* replay() const { return replay_.get(); }
  /// What the pointer is over on the map.
  void hover(bool inside, acre::Cell cell);
  void go(int step);
  void play(bool on);
  BasinPanel& basin() { return *basin_; }
  /// Runs the chosen process again from the last cell to the first and says whether it is equal.
  void reverse();

 signals:
  void pictureChanged(std::shared_ptr<const SpacesPicture> picture);
  void shownChanged(bool shown);

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  /// A recording, and whatever it takes of the limit of memory.
  struct Recorded {
    std::shared_ptr<const acre::World> world;
    std::vector<acre::MemoryBudget::Reservation> room;
  };
  struct Recording {
    std::shared_ptr<acre::Replay> replay;
    std::shared_ptr<Recorded> recorded;
    std::vector<size_t> by;  ///< Which process made each step.
    bool whole = true;       ///< Up to the last step.
    QString fault;
  };
  static Recording recordOf(const std::shared_ptr<const acre::World>& world, const std::string& id,
      acre::MemoryBudget& budget, const std::stop_token& stop);
  void show_(const Recording& made, int restore);
  void record();
  void listProcesses();
  void showStep();
  void showPointer();
  std::string chosenId() const;

  Document& document_;
  std::shared_ptr<Courier<ReplayDrawer>> courier_;
  std::shared_ptr<const acre::World> world_;  // That was recorded, or is being recorded.
  std::string recorded_;                      // Which process.
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool recording_ = false;
  std::shared_ptr<Recorded> shown_;  // Stays while another one is made.
  std::shared_ptr<acre::Replay> replay_;
  std::vector<size_t> processes_;  // Which one made each step, from the first on.
  bool hovering_ = false;
  acre::Cell hovered_;

  Choice* process_;
  Transport* transport_;
  QLabel* headline_;
  QLabel* figures_;
  QLabel* pointer_;
  QLabel* equal_;
  QPushButton* reverse_;
  Plot* open_;
  Plot* pieces_;
  Plot* outline_;
  QWidget* body_;
  BasinPanel* basin_;
};

}  // namespace app
