#include "app/window/dialogs.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QMessageBox>
#include <QPushButton>

namespace app {
namespace {

class DesktopDialogs : public Dialogs {
 public:
  QString openFile(QWidget* parent, const QString& title, const QString& filter) override {
    return QFileDialog::getOpenFileName(parent, title, {}, filter);
  }
  QString saveFile(QWidget* parent, const QString& title, const QString& filter,
      const QString& suggestion) override {
    return QFileDialog::getSaveFileName(parent, title, suggestion, filter);
  }
  Unsaved askUnsaved(QWidget* parent, const QString& name) override {
    QMessageBox box(parent);
    box.setWindowTitle(QObject::tr("Unsaved changes"));
    box.setText(QObject::tr("“%1” has changes that are not saved.").arg(name));
    auto* save = box.addButton(QObject::tr("Save"), QMessageBox::AcceptRole);
    auto* discard = box.addButton(QObject::tr("Discard"), QMessageBox::DestructiveRole);
    box.addButton(QObject::tr("Stay"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == save) return Unsaved::Save;
    return box.clickedButton() == discard ? Unsaved::Discard : Unsaved::Stay;
  }
  std::optional<QString> askText(
      QWidget* parent, const QString& title, const QString& label, const QString& text) override {
    bool fine = false;
    const QString answer =
        QInputDialog::getText(parent, title, label, QLineEdit::Normal, text, &fine);
    return fine ? std::optional(answer) : std::nullopt;
  }
  void tell(QWidget* parent, const QString& title, const QString& text) override {
    QMessageBox::information(parent, title, text);
  }
};

}  // namespace

Dialogs& desktopDialogs() {
  static DesktopDialogs dialogs;
  return dialogs;
}

}  // namespace app
