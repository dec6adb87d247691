/// Every question that the application asks in a window of its own. Tests answer in its place.
#pragma once

#include <QString>
#include <optional>

class QWidget;

namespace app {

class Dialogs {
 public:
  enum class Unsaved { Save, Discard, Stay };

  virtual ~Dialogs() = default;
  /// Empty: the user changed their mind.
  virtual QString openFile(QWidget* parent, const QString& title, const QString& filter) = 0;
  virtual QString saveFile(
      QWidget* parent, const QString& title, const QString& filter, const QString& suggestion) = 0;
  virtual Unsaved askUnsaved(QWidget* parent, const QString& name) = 0;
  virtual std::optional<QString> askText(
      QWidget* parent, const QString& title, const QString& label, const QString& text) = 0;
  virtual void tell(QWidget* parent, const QString& title, const QString& text) = 0;
};

/// The dialogs of the desktop.
Dialogs& desktopDialogs();

}  // namespace app
