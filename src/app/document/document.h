/// The open world: its recipe, its undo history, its file and the compiled World.
#pragma once

#include <QObject>
#include <QString>
#include <QUndoStack>
#include <memory>

#include "world/engine.h"

namespace app {

/// Every change goes through change(), so that all of them can be undone and none leaves a recipe
/// that does not compile.
class Document : public QObject {
  Q_OBJECT

 public:
  explicit Document(acre::Engine& engine, QObject* parent = nullptr);

  const acre::Recipe& recipe() const { return recipe_; }
  const std::shared_ptr<const acre::World>& world() const { return world_; }
  acre::Engine& engine() { return engine_; }
  QUndoStack& undoStack() { return undo_; }

  /// File of the world; empty for a new one and for demos.
  const QString& file() const { return file_; }
  bool modified() const { return !undo_.isClean(); }
  /// The recipe as it was opened or last saved: what "restore" goes back to.
  const acre::Recipe& saved() const { return saved_; }

  /// The world before the last change (a whole drag counts as one); nullptr at first.
  const std::shared_ptr<const acre::World>& before() const { return before_; }
  /// What the command line calls this world: its file, or the demo's name; empty for a new one.
  QString source() const { return source_; }

  /// Replaces the recipe as one undoable step. A refused recipe changes nothing: refused() tells
  /// why. mergeKey: steps with the same key that follow each other within one gesture become one.
  bool change(const QString& name, const acre::Recipe& next, const QString& mergeKey = {});
  /// Ends a gesture (a drag, a held key): the next change is a step of its own.
  void endGesture() { ++gesture_; }

  /// Opens another world; the history starts anew.
  /// demo: its name, when it is one.
  bool open(const acre::Recipe& recipe, const QString& file, const QString& demo = {});
  /// Opens changes that were never saved: they stay unsaved, and can be undone to nothing.
  bool recover(const acre::Recipe& recipe, const QString& file);
  acre::Status save(const QString& file);

 signals:
  void worldChanged();                  ///< recipe() and world() are new.
  void fileChanged();                   ///< file(), saved() or modified().
  void refused(const QString& reason);  ///< A change was not taken.

 private:
  friend class RecipeStep;
  bool setRecipe(const acre::Recipe& recipe);

  acre::Engine& engine_;
  QUndoStack undo_;
  acre::Recipe recipe_;
  acre::Recipe saved_;
  std::shared_ptr<const acre::World> world_;
  std::shared_ptr<const acre::World> before_;
  QString file_;
  QString source_;
  int gesture_ = 0;
};

/// The recipe of a new world: one layer of noise, a sea and some ground.
acre::Recipe newRecipe();

}  // namespace app
