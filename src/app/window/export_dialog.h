/// Which picture to export: what it shows, how large, with or without a legend.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <memory>

#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/tick.h"
#include "app/map/geometry.h"
#include "app/window/dialogs.h"
#include "app/window/export_job.h"

namespace app {

class ExportDialog : public QDialog {
  Q_OBJECT

 public:
  ExportDialog(std::shared_ptr<const acre::World> world, const MapGeometry& view,
      const acre::Picture& show, const acre::Style& style, Dialogs& dialogs,
      std::vector<std::filesystem::path> inputs, QWidget* parent = nullptr);

  /// Starts writing to a file; done through ready() or an error line in the dialog.
  void exportTo(const QString& file);

 signals:
  void exported(const QString& file);

 private:
  ExportOptions options() const;
  void describe();
  QString ending() const;
  void setRunning(bool running);

  std::shared_ptr<const acre::World> world_;
  std::vector<std::filesystem::path> inputs_;  // What the world is read from.
  MapGeometry view_;
  Dialogs& dialogs_;
  acre::Picture picture_;
  acre::Style style_;
  Choice* show_;
  NumberField* width_;
  NumberField* height_;
  NumberField* step_;
  Tick* legend_;
  QLabel* estimate_;
  QLabel* fault_;
  QProgressBar* progress_;
  QPushButton* write_;
  QPushButton* close_;
  std::unique_ptr<ExportJob> job_;
};

}  // namespace app
