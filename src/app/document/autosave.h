/// Keeps a copy of unsaved changes on disk, and finds those that a killed run left behind.
#pragma once

#include <QObject>
#include <QTimer>
#include <memory>
#include <mutex>
#include <optional>

#include "app/document/document.h"

namespace app {

/// One file per running program, replaced atomically a few seconds after a change and removed when
/// nothing is unsaved. Files whose program is gone are what can be recovered.
class Autosave : public QObject {
  Q_OBJECT

 public:
  /// folder: where copies are kept; created when needed. pauseMillis: from a change to its copy.
  Autosave(
      Document& document, const QString& folder, int pauseMillis = 2000, QObject* parent = nullptr);

  struct Found {
    acre::Recipe recipe;
    QString file;  ///< The world's own file; empty when it had none.
    QString copy;
  };
  /// The newest copy that a program left which does not run any more. Broken copies are passed
  /// over.
  std::optional<Found> findLost() const;
  /// Removes a copy that was recovered or is not wanted.
  static void drop(const Found& found);
  /// Nothing is unsaved any more, or it was given up: removes the own copy.
  void clear();
  /// The user's folder for such copies.
  static QString usualFolder();

 private:
  void save();
  QString ownFile() const;

  Document& document_;
  QString folder_;
  QTimer pause_;
  struct Turn {
    std::mutex mutex;
    uint64_t now = 0;
  };
  std::shared_ptr<Turn> turn_ =
      std::make_shared<Turn>();  // A copy on its way after clear() is late.
};

}  // namespace app
