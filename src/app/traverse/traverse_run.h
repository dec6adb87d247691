/// Traverses on a thread of their own, told to the interface as they go.
#pragma once

#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

#include "app/document/courier.h"
#include "app/document/worker.h"
#include "app/map/map_view.h"
#include "output/traverse_text.h"
#include "world/engine.h"

namespace app {

/// One run after another; a new start stops what is going on.
class TraverseRun : public QObject {
  Q_OBJECT

 public:
  /// What a column is to run; its report is filled in.
  struct Plan {
    acre::TraverseColumn column;
    acre::Recipe recipe;
    int64_t collision = -1, objects = -1;  ///< Cells, as addExtras() has them.
  };

  explicit TraverseRun(acre::Engine& engine, QObject* parent = nullptr);
  ~TraverseRun() override;

  void start(std::vector<Plan> plans, bool follow);
  void stop();
  void setPaused(bool paused);
  bool paused() const;
  bool running() const { return running_; }

 signals:
  /// Some thirty times a second. share: of all columns, 0 ... 1.
  void moved(const QString& column, double seconds, double share,
      std::shared_ptr<app::TraverseScene> scene, quint32 loaded, quint32 missing);
  void finished(std::vector<acre::TraverseColumn> columns);
  /// A plan cannot be run; nothing was.
  void refused(const QString& column, const QString& reason);

 private:
  struct Gate;  // Where the run waits while it is paused.

  acre::Engine& engine_;
  std::shared_ptr<Courier<TraverseRun>> courier_;
  std::shared_ptr<Gate> gate_;
  Worker worker_;
  uint64_t request_ = 0;
  bool running_ = false;
};

}  // namespace app
