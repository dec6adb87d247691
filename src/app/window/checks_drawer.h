/// Everything that the checks found, stage by stage.
#pragma once

#include <QScrollArea>
#include <QVBoxLayout>
#include <QWidget>
#include <array>
#include <vector>

#include "app/document/document.h"
#include "app/document/statistics.h"
#include "recipe/stages.h"

namespace app {

/// One finding a row: its sentence, the place to look at it, the control that makes it, what would
/// mend it (a step that can be undone), and what the check is about.
class ChecksDrawer : public QWidget {
  Q_OBJECT

 public:
  ChecksDrawer(Document& document, const Statistics& statistics, QWidget* parent = nullptr);

  /// Brings the findings of a stage into sight.
  void showStage(acre::StageId stage);

 signals:
  void goToRequested(qint64 x, qint64 z);
  void controlRequested(const QString& pointer);
  void refused(const QString& reason);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  void rebuild();
  void addFinding(const acre::Check& check);
  void mend(const acre::Check& check);

  Document& document_;
  const Statistics& statistics_;
  QScrollArea* page_;
  QVBoxLayout* column_ = nullptr;
  std::array<QWidget*, acre::kStageCount> heads_{};
  std::vector<acre::Check> shown_;
  bool built_ = false;
};

}  // namespace app
