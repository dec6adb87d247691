// The files that the window opens, saves and exports.
#include <QCloseEvent>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QMenu>
#include <QMimeData>

#include "app/document/command_line.h"
#include "app/sheet/export_dialog.h"
#include "app/window/main_window.h"
#include "cave/level_stage.h"
#include "output/carried_recipe.h"
#include "world/demos.h"
#include "world/world.h"

namespace app {
namespace {

const QString kWorldFilter =
    QStringLiteral("Worlds (*.acre);;Pictures of worlds (*.png *.svg);;All files (*)");

}  // namespace

bool MainWindow::mayLeave() {
  if (!document_.modified()) return true;
  // A demo that was only rolled is there again whenever one likes.
  if (document_.file().isEmpty() && !document_.source().isEmpty() &&
      !commandLacksChanges(document_))
    return true;
  switch (dialogs_.askUnsaved(this, QString::fromStdString(document_.recipe().name))) {
    case Dialogs::Unsaved::Save:
      return save();
    case Dialogs::Unsaved::Discard:
      return true;
    case Dialogs::Unsaved::Stay:
      return false;
  }
  return false;
}

void MainWindow::askOpen() {
  const QString chosen = dialogs_.openFile(this, tr("Open world"), kWorldFilter);
  if (!chosen.isEmpty()) openWorld(chosen);
}

bool MainWindow::openWorld(const QString& fileOrDemo) {
  if (!mayLeave()) return false;
  const auto recipe = acre::openRecipe(fileOrDemo.toStdString());
  if (!recipe) {
    refuse(QString::fromStdString(recipe.error().text()));
    return false;
  }
  // A picture stays what it is: its world is a new one, to be saved elsewhere.
  const bool isFile = QFileInfo::exists(fileOrDemo) && !acre::isPicture(fileOrDemo.toStdString());
  plumbs_->takeUp();
  if (!document_.open(
          *recipe, isFile ? QFileInfo(fileOrDemo).absoluteFilePath() : QString(), fileOrDemo))
    return false;
  if (isFile) settings_.noteFile(document_.file());
  arrive();
  return true;
}

bool MainWindow::beginWorld(const QString& start) {
  if (!mayLeave()) return false;
  const auto recipe = acre::loadRecipe(start.toStdString());
  if (!recipe) {
    refuse(QString::fromStdString(recipe.error().text()));
    return false;
  }
  plumbs_->takeUp();
  if (!document_.open(*recipe, {})) return false;
  strip_->choose(StageId::Frame);
  arrive();
  return true;
}

/// Shows a world that was opened or begun.
void MainWindow::arrive() {
  // Levels are seen whole, from where one comes in.
  const acre::World& world = *document_.world();
  const acre::Frame& frame = world.recipe().frame;
  const bool level = frame.kind == acre::WorldKind::Level;
  const acre::Rect& bounds = planOf(world).bounds();
  acre::Cell start;
  if (level) start = {bounds.x + bounds.width / 2, bounds.z + bounds.length / 2};
  if (planOf(world).level() && !planOf(world).level()->floor().places.empty())
    start = planOf(world).level()->cellOf(planOf(world).level()->floor().places.front());
  map_->goTo(start);
  if (level) map_->fit(bounds);
  // A side world is a line from above.
  const bool side = frame.kind == acre::WorldKind::Side;
  if (side != (panes_->large() == Panes::Large::Section))
    panes_->setLarge(side ? Panes::Large::Section : Panes::Large::Map);
}

void MainWindow::recoverLost(bool beside) {
  auto lost = autosave_.findLost();
  if (!lost.fault.isEmpty())
    refuse(tr("Unsaved changes of an earlier run cannot be read: %1").arg(lost.fault));
  if (!lost.newest) return;
  const QString name = QString::fromStdString(lost.newest->recipe.name);
  const auto open = [this, found = std::move(*lost.newest), name] {
    if (!mayLeave()) return;
    plumbs_->takeUp();
    if (!document_.recover(found.recipe, found.file)) return;
    autosave_.adopt(found);
    offer_->offer(
        tr("Recovered unsaved changes of “%1”. Save keeps them; Undo goes back to what was saved.")
            .arg(name),
        {{tr("Good"), "recovered.good", {}}});
  };
  if (!beside) return open();
  offer_->offer(tr("An earlier run left unsaved changes of “%1”.").arg(name),
      {{tr("Open them"), "recovered.open", open}, {tr("Later"), "recovered.later", {}}});
}

bool MainWindow::save() {
  if (document_.file().isEmpty()) return saveAs();
  const auto saved = document_.save(document_.file());
  if (!saved) refuse(QString::fromStdString(saved.error().text()));
  return saved.ok();
}

bool MainWindow::saveAs() {
  QString suggestion = document_.file();
  if (suggestion.isEmpty())
    suggestion = QString::fromStdString(document_.recipe().name)
                     .toLower()
                     .replace(QLatin1Char(' '), QLatin1Char('-')) +
                 QStringLiteral(".acre");
  QString file = dialogs_.saveFile(this, tr("Save world"), kWorldFilter, suggestion);
  if (file.isEmpty()) return false;
  if (QFileInfo(file).suffix().isEmpty() && !QFileInfo(file).isDir())
    file += QStringLiteral(".acre");
  const auto saved = document_.save(file);
  if (!saved) {
    refuse(QString::fromStdString(saved.error().text()));
    return false;
  }
  settings_.noteFile(document_.file());
  return true;
}

void MainWindow::showRecent() {
  recent_->clear();
  for (const QString& file : settings_.recentFiles())
    recent_->addAction(QDir::toNativeSeparators(file), this, [this, file] { openWorld(file); });
  if (recent_->isEmpty()) recent_->addAction(tr("No file yet"))->setEnabled(false);
}

void MainWindow::exportPicture() {
  document_.finish();
  ExportView view{map_->geometry(), map_->picture(), map_->style(), document_.inputs(),
      [this](const acre::MapRequest& request) { return mapCommandFor(document_, request); },
      document_.saved()};
  view.style.contours = map_->contourInterval();
  auto* dialog = new ExportDialog(document_.world(), std::move(view), dialogs_, settings_, this);
  dialog->setObjectName(QStringLiteral("export"));
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  connect(dialog, &ExportDialog::exported, this, [this](const QString& file) {
    status_->tell(tr("Written: %1").arg(QDir::toNativeSeparators(file)));
  });
  connect(dialog, &ExportDialog::copied, this,
      [this] { status_->tell(tr("The picture is on the clipboard.")); });
  dialog->open();
}

void MainWindow::closeEvent(QCloseEvent* e) {
  if (!mayLeave()) return e->ignore();
  settings_.setGeometry(saveGeometry());
  autosave_.clear();
  e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
  if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
  const QList<QUrl> urls = e->mimeData()->urls();
  if (urls.isEmpty() || !urls.front().isLocalFile()) return;
  e->acceptProposedAction();
  openWorld(urls.front().toLocalFile());
}

}  // namespace app
