/// Which picture to export: what it shows, how large, and what stands around it.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QTimer>
#include <functional>
#include <memory>
#include <vector>

#include "app/document/courier.h"
#include "app/document/worker.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/tick.h"
#include "app/map/geometry.h"
#include "app/sheet/export_job.h"
#include "app/window/dialogs.h"
#include "app/window/settings.h"

class QGridLayout;
class QVBoxLayout;

namespace app {

/// The map as it is exported at first.
struct ExportView {
  MapGeometry geometry;
  acre::Picture show;
  acre::Style style;
  std::vector<std::filesystem::path> inputs;  ///< What the world is read from.
  /// The call of the command that gives a picture.
  std::function<QString(const acre::MapRequest&)> command;
  acre::Recipe saved;  ///< The world as it was opened or last saved.
};

class ExportDialog : public QDialog {
  Q_OBJECT

 public:
  ExportDialog(std::shared_ptr<const acre::World> world, ExportView view, Dialogs& dialogs,
      Settings& settings, QWidget* parent = nullptr);
  ~ExportDialog() override;

  /// Starts writing to a file; done through ready() or an error line in the dialog.
  void exportTo(const QString& file);
  /// What would be written now.
  ExportOptions options() const;

 signals:
  void exported(const QString& file);
  void copied();  ///< The picture is on the clipboard.

 private:
  enum Preset { Bare, Sheet, PosterTwice, PosterFourTimes, Own };
  void buildForm(QGridLayout* grid);
  void buildParts(QVBoxLayout* column);
  void takePreset(int preset);
  void chooseOther(int index);
  void partChanged();
  SheetParts parts() const;
  void setParts(const SheetParts& parts);
  int32_t calmest() const;
  void describe();
  void preview();
  void copy();
  void remember() const;
  QString ending() const;
  void setRunning(bool running);

  std::shared_ptr<const acre::World> world_;
  ExportView view_;
  Dialogs& dialogs_;
  Settings& settings_;
  std::shared_ptr<Courier<ExportDialog>> courier_;
  Worker previewer_, copier_;
  QTimer pause_;
  double lettering_ = 1;
  Choice* format_;
  Choice* preset_;
  NumberField* width_;
  NumberField* height_;
  NumberField* step_;
  std::vector<std::pair<Tick*, bool SheetParts::*>> parts_;
  Tick* calm_;
  Choice* other_;
  SheetChanges changes_;
  QLabel* picture_;
  QLabel* estimate_;
  QLabel* fault_;
  QProgressBar* progress_;
  QPushButton* copy_;
  QPushButton* write_;
  QPushButton* close_;
  std::unique_ptr<ExportJob> job_;
};

}  // namespace app
