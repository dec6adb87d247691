/// The open world: its recipe, its undo history, its file and the compiled World.
#pragma once

#include <QObject>
#include <QString>
#include <QUndoStack>
#include <deque>
#include <memory>

#include "app/document/courier.h"
#include "world/engine.h"

namespace app {

/// A recipe of the history. Steps that follow each other share theirs, and all count against the
/// limit of memory.
struct KeptRecipe {
  acre::Recipe recipe;
  acre::MemoryBudget::Reservation room;
};
using Kept = std::shared_ptr<const KeptRecipe>;

class RecipeStep;

/// Every change goes through change(), so that all of them can be undone and none leaves a recipe
/// that does not compile. Changes are taken at once, their worlds are compiled by the executor:
/// world() follows recipe() some milliseconds later, and while somebody drags it may skip some.
class Document : public QObject {
  Q_OBJECT

 public:
  explicit Document(acre::Engine& engine, QObject* parent = nullptr);
  ~Document() override;

  const acre::Recipe& recipe() const { return recipe_; }
  /// The latest compiled world; its own recipe() may be older than that of the document.
  const std::shared_ptr<const acre::World>& world() const { return world_; }
  /// Whether world() is made of recipe().
  bool current() const { return worldRevision_ == revision_; }
  /// Makes world() current, here and now: for steps that must not rest on an older one.
  void finish();
  acre::Engine& engine() { return engine_; }
  QUndoStack& undoStack() { return undo_; }
  /// Most bytes of recipes that the history keeps, and most steps; the oldest are forgotten. Where
  /// others have filled the memory, the last few stay whatever they take.
  static constexpr uint64_t kHistoryBytes = uint64_t{64} << 20;
  static constexpr int kHistorySteps = 1000;
  static constexpr size_t kStepsAnyway = 32;

  /// File of the world; empty for a new one and for demos.
  const QString& file() const { return file_; }
  bool modified() const { return !undo_.isClean(); }
  /// The recipe as it was opened or last saved: what "restore" goes back to.
  const acre::Recipe& saved() const { return saved_; }

  /// The recipe before the last change (a whole drag counts as one); none at first.
  const acre::Recipe* before() const { return before_ ? &before_->recipe : nullptr; }
  /// What the command line calls this world: its file, or the demo's name; empty for a new one.
  QString source() const { return source_; }

  /// Replaces the recipe as one undoable step. A refused recipe changes nothing: refused() tells
  /// why. What only compiling can find (a picture that cannot be read) is refused a little later,
  /// and the step taken back. mergeKey: steps with the same key that follow each other within one
  /// gesture become one.
  bool change(const QString& name, const acre::Recipe& next, const QString& mergeKey = {});
  /// Ends a gesture (a drag, a held key): the next change is a step of its own.
  void endGesture();
  /// The last change may go on.
  bool inGesture() const { return changedIn_ == gesture_; }

  /// Opens another world; the history starts anew.
  /// demo: its name, when it is one.
  bool open(const acre::Recipe& recipe, const QString& file, const QString& demo = {});
  /// Opens changes that were never saved: they stay unsaved, and can be undone to nothing.
  bool recover(const acre::Recipe& recipe, const QString& file);
  acre::Status save(const QString& file);
  /// The files that this world is read from: no result may replace them.
  std::vector<std::filesystem::path> inputs() const;

 signals:
  void recipeChanged();                 ///< recipe() is new; world() follows.
  void worldChanged();                  ///< world() is new.
  void gestureEnded();                  ///< What was changed meanwhile is settled.
  void fileChanged();                   ///< file(), saved() or modified().
  void refused(const QString& reason);  ///< A change was not taken.

 private:
  friend class RecipeStep;
  void setRecipe(const Kept& recipe);
  void place(const Kept& recipe);
  /// A recipe for the history, which forgets old steps to make room for it.
  Kept keep(const acre::Recipe& recipe);
  void forgetOldest();
  void requestWorld();
  acre::Result<std::shared_ptr<const acre::World>> compileNow(const acre::Recipe& recipe);
  void adopt(std::shared_ptr<const acre::World> world, int revision);
  void takeBack(const acre::Error& error);

  acre::Engine& engine_;
  QUndoStack undo_;
  std::deque<RecipeStep*> steps_;  // Those that remember, the oldest first.
  uint64_t historyBytes_ = 0;
  Kept now_;  // In the history; recipe_ is the same at one place for all that look on.
  acre::Recipe recipe_;
  acre::Recipe saved_;
  std::shared_ptr<const acre::World> world_;
  Kept before_;
  std::shared_ptr<Courier<Document>> courier_;
  int revision_ = 0;  // Counts recipes.
  int worldRevision_ = 0;
  bool compiling_ = false;
  int pushed_ = -1;  // Revision of the step that was pushed last.
  bool takingBack_ = false;
  QString file_;
  QString source_;
  int gesture_ = 0;
  int changedIn_ = -1;  // The gesture that made the last change.
};

/// The recipe of a new world: one layer of noise, a sea and some ground.
acre::Recipe newRecipe();

}  // namespace app
