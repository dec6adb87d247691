/// Offers to equalise one axis of the chart: what it would do to every biome's share, before it is
/// taken.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "app/document/statistics.h"

namespace app {

class EqualisePanel : public QWidget {
  Q_OBJECT

 public:
  EqualisePanel(Document& document, Statistics& statistics, QWidget* parent = nullptr);

  /// Opens with the figures of a field that the chart reads.
  void offer(const std::string& fieldId);

 signals:
  void refused(const QString& reason);

 private:
  void take();

  Document& document_;
  Statistics& statistics_;
  std::string field_;
  QLabel* text_;
  QPushButton* take_;
};

}  // namespace app
