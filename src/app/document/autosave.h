/// Keeps a copy of unsaved changes on disk, and finds those that a killed run left behind.
#pragma once

#include <QLockFile>
#include <QObject>
#include <QTimer>
#include <memory>
#include <mutex>
#include <optional>

#include "app/document/document.h"

namespace app {

/// One file per running program, replaced atomically a few seconds after a change and removed when
/// nothing is unsaved. A lock beside it says whether its program runs; files whose program is gone
/// are what can be recovered.
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
  struct Lost {
    std::optional<Found> newest;
    QString fault;  ///< A copy that cannot be read, and why; it stays where it is.
  };
  /// What programs left that do not run any more.
  Lost findLost() const;
  /// The found copy goes on as the own one: there is a copy on disk at every moment. Whoever calls
  /// holds the found recipe as the document's.
  void adopt(const Found& found);
  /// Writes the copy at once, on this thread: before a program that is told to end does.
  void saveNow();
  /// Nothing is unsaved any more, or it was given up: removes the own copy.
  void clear();
  /// The user's folder for such copies.
  static QString usualFolder();

 private:
  void save();
  /// Takes the lock and makes the folder; once.
  void prepare();
  QString ownFile() const;

  Document& document_;
  QString folder_;
  QTimer pause_;
  std::unique_ptr<QLockFile> lock_;
  struct Turn {
    std::mutex mutex;
    uint64_t now = 0;
  };
  std::shared_ptr<Turn> turn_ =
      std::make_shared<Turn>();  // A copy on its way after clear() is late.
};

}  // namespace app
