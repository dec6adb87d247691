#include "app/document/document.h"

#include <QCoreApplication>
#include <QEventLoop>
#include <QThread>
#include <filesystem>

#include "base/atomic_file.h"
#include "recipe/json.h"
#include "recipe/level_recipe.h"
#include "recipe/look.h"
#include "recipe/map_inks.h"
#include "recipe/validate.h"

namespace app {

/// One undoable step: the recipe before and after. One that was forgotten has neither.
class RecipeStep : public QUndoCommand {
 public:
  RecipeStep(Document& document, const QString& name, Kept before, Kept after, QString mergeKey,
      int gesture)
      : QUndoCommand(name),
        document_(document),
        before_(std::move(before)),
        after_(std::move(after)),
        mergeKey_(std::move(mergeKey)),
        gesture_(gesture) {}
  ~RecipeStep() override { std::erase(document_.steps_, this); }

  void undo() override {
    setObsolete(document_.takingBack_ || !before_);
    if (before_) return document_.setRecipe(before_);
    emit document_.refused(
        Document::tr("Steps so far back are forgotten: there was no more room for them."));
  }
  void redo() override {
    if (after_) document_.setRecipe(after_);
  }
  int id() const override { return mergeKey_.isEmpty() ? -1 : 1; }
  bool mergeWith(const QUndoCommand* next) override {
    const auto* step = dynamic_cast<const RecipeStep*>(next);
    if (!step || !before_ || step->mergeKey_ != mergeKey_ || step->gesture_ != gesture_)
      return false;
    after_ = step->after_;
    setObsolete(after_->recipe == before_->recipe);
    return true;
  }
  void forget() { before_ = after_ = nullptr; }

 private:
  Document& document_;
  Kept before_;
  Kept after_;
  QString mergeKey_;
  int gesture_;
};

Document::Document(acre::Engine& engine, QObject* parent)
    : QObject(parent), engine_(engine), courier_(std::make_shared<Courier<Document>>(this)) {
  undo_.setUndoLimit(kHistorySteps);
  connect(&undo_, &QUndoStack::cleanChanged, this, &Document::fileChanged);
  open(newRecipe(), {});
}

Document::~Document() {
  courier_->close();
  undo_.clear();  // Steps speak to the document until they are gone.
}

// ---- recipe and world --------------------------------------------------------------------------

Kept Document::keep(const acre::Recipe& recipe) {
  auto kept = std::make_shared<KeptRecipe>();
  kept->recipe = recipe;
  const uint64_t bytes = acre::bytesOf(recipe);
  auto room = engine_.budget().reserve(bytes);
  while ((!room && steps_.size() > kStepsAnyway) ||
         (!steps_.empty() && historyBytes_ + bytes > kHistoryBytes)) {
    forgetOldest();
    if (!room) room = engine_.budget().reserve(bytes);
  }
  if (room) kept->room = std::move(*room);
  historyBytes_ += bytes;
  return {kept.get(), [kept, this, bytes](const KeptRecipe*) mutable {
            historyBytes_ -= bytes;
            kept.reset();
          }};
}

void Document::forgetOldest() {
  steps_.front()->forget();
  steps_.pop_front();
}

void Document::place(const Kept& recipe) {
  now_ = recipe;
  recipe_ = recipe->recipe;
  ++revision_;
}

void Document::setRecipe(const Kept& recipe) {
  place(recipe);
  requestWorld();
  emit recipeChanged();
}

void Document::requestWorld() {
  // One at a time, and then the latest: a long drag is followed all the way.
  if (std::exchange(compiling_, true)) return;
  engine_.executor().submit(acre::Priority::Compile,
      [courier = courier_, &engine = engine_, recipe = recipe(), revision = revision_] {
        auto world = engine.compile(recipe);
        courier->deliver([world = std::move(world), revision](Document& self) {
          self.compiling_ = false;
          const bool news = revision > self.worldRevision_;  // Unless finish() was here before.
          if (news && world)
            self.adopt(*world, revision);
          else if (news && revision == self.revision_)
            return self.takeBack(world.error());
          if (!self.current()) self.requestWorld();
        });
      });
}

void Document::adopt(std::shared_ptr<const acre::World> world, int revision) {
  world_ = std::move(world);
  worldRevision_ = revision;
  emit worldChanged();
}

void Document::takeBack(const acre::Error& error) {
  if (revision_ == pushed_) {
    takingBack_ = true;
    undo_.undo();
    takingBack_ = false;
  } else {  // Undone or redone to: the step stays, should its file come back.
    place(keep(planOf(*world_).recipe()));
    emit recipeChanged();
  }
  if (recipe() == planOf(*world_).recipe()) adopt(world_, revision_);
  emit refused(QString::fromStdString(error.text()));
}

/// Compiles at once. The floor of a large level takes so long that it is made beside the interface,
/// which paints meanwhile and takes nothing in.
acre::Result<std::shared_ptr<const acre::World>> Document::compileNow(const acre::Recipe& recipe) {
  constexpr int64_t kLarge = int64_t{1} << 18;
  const acre::Rect floor = acre::boundsOf(recipe.frame);
  const bool large = recipe.frame.kind == acre::WorldKind::Level && recipe.level->on &&
                     floor.width <= kLarge && floor.length <= kLarge &&
                     floor.width * floor.length > kLarge;
  if (!large || engine_.executor().threads() == 0 || !QCoreApplication::instance())
    return engine_.compile(recipe);
  std::optional<acre::Result<std::shared_ptr<const acre::World>>> made;
  bool done = false;  // Set in this thread, after the other one has spoken.
  QEventLoop loop;
  engine_.executor().submit(acre::Priority::Compile, [&] {
    made = engine_.compile(recipe);
    QMetaObject::invokeMethod(
        &loop,
        [&] {
          done = true;
          loop.quit();
        },
        Qt::QueuedConnection);
  });
  // Whoever quits the application ends the loop, but not what is being made.
  while (!done) {
    loop.exec(QEventLoop::ExcludeUserInputEvents);
    if (done) break;
    QThread::msleep(5);
    QCoreApplication::sendPostedEvents(&loop);
  }
  return std::move(*made);
}

void Document::finish() {
  if (current()) return;
  if (auto world = compileNow(recipe()))
    adopt(*world, revision_);
  else
    takeBack(world.error());
}

bool Document::change(const QString& name, const acre::Recipe& next, const QString& mergeKey) {
  if (next == recipe()) return true;
  if (const auto valid = acre::validate(next); !valid) {
    emit refused(QString::fromStdString(valid.error().text()));
    return false;
  }
  const Kept old = now_;
  const int steps = undo_.count();
  auto* step = new RecipeStep(*this, name, now_, keep(next), mergeKey, gesture_);
  steps_.push_back(step);
  undo_.push(step);
  pushed_ = revision_;
  changedIn_ = mergeKey.isEmpty() ? -1 : gesture_;
  if (undo_.count() != steps || mergeKey.isEmpty()) before_ = old;  // Not when merged.
  return true;
}

void Document::endGesture() {
  const bool changed = inGesture();
  ++gesture_;
  if (changed) emit gestureEnded();
}

bool Document::open(const acre::Recipe& recipe, const QString& file, const QString& demo) {
  auto world = compileNow(recipe);
  if (!world) {
    emit refused(QString::fromStdString(world.error().text()));
    return false;
  }
  saved_ = recipe;
  before_.reset();
  changedIn_ = -1;
  undo_.clear();
  place(keep(recipe));
  adopt(*world, revision_);
  emit recipeChanged();
  undo_.setClean();
  file_ = file;
  source_ = file.isEmpty() ? demo : file;
  emit fileChanged();
  return true;
}

bool Document::recover(const acre::Recipe& recipe, const QString& file) {
  // What is on disk comes first, so that undoing leads back to it.
  const auto saved = file.isEmpty() ? acre::Result<acre::Recipe>(newRecipe())
                                    : acre::readRecipeFile(file.toStdString());
  if (!open(saved ? *saved : newRecipe(), saved ? file : QString())) return false;
  return change(tr("Recovered changes"), recipe);
}

std::vector<std::filesystem::path> Document::inputs() const {
  return acre::filesOf(recipe(), file_.toStdString());
}

acre::Status Document::save(const QString& file) {
  const std::filesystem::path target = file.toStdString();
  if (auto apart =
          acre::checkOutputs({target, acre::editsFileOf(target)}, acre::filesOf(recipe(), {}));
      !apart)
    return apart;
  acre::Recipe kept = recipe();
  const std::filesystem::path folder = std::filesystem::path(file.toStdString()).parent_path();
  // Pictures and rooms are named from where the recipe lies.
  if (folder != std::filesystem::path(recipe().folder)) {
    const auto move = [&](std::string& file) {
      std::error_code none;
      const auto whole = std::filesystem::path(recipe().folder) / file;
      const auto shorter = std::filesystem::relative(whole, folder, none);
      if (!none && !shorter.empty()) file = shorter.string();
    };
    acre::eachFile(kept, move);
    kept.folder = folder.string();
  }
  if (auto written = acre::writeRecipeFile(file.toStdString(), kept); !written) return written;
  if (!(kept == recipe()) || kept.folder != recipe().folder) setRecipe(keep(kept));
  file_ = file;
  source_ = file;
  saved_ = recipe();
  undo_.setClean();
  emit fileChanged();
  return acre::done();
}

acre::Recipe newRecipe() {
  acre::Recipe recipe;
  recipe.name = "New world";
  using acre::MaterialState;
  recipe.materials = {{"deep-water", "Deep water", acre::inks::kDeepWater, MaterialState::Liquid},
      {"shallow", "Shallow water", acre::inks::kShallow, MaterialState::Liquid},
      {"sand", "Sand", acre::inks::kSand, MaterialState::Passable},
      {"meadow", "Meadow", acre::inks::kWetMeadow, MaterialState::Passable},
      {"scree", "Scree", acre::inks::kScree, MaterialState::Solid}};
  acre::Layer layer;
  layer.id = "layer-1";
  layer.name = "Broad rises";
  acre::NoiseSource noise;
  noise.width = 200;
  layer.source = noise;
  layer.amplitude = 20;
  recipe.heights.layers = {layer};
  const auto sea = [](double above) { return acre::Threshold{above, true, {}}; };
  recipe.bands = {{"band-1", sea(-5), "deep-water", {}}, {"band-2", sea(0), "shallow", {}},
      {"band-3", sea(1.5), "sand", {}}, {"band-4", sea(9), "meadow", {}},
      {"band-5", {}, "scree", {}}};
  return recipe;
}

}  // namespace app

#include "moc_document.cpp"
