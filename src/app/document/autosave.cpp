#include "app/document/autosave.h"

#include <unistd.h>

#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>
#include <filesystem>

#include "base/atomic_file.h"
#include "recipe/json.h"

namespace app {
namespace {

/// The first line of a copy names the world's own file; the recipe follows, with all cells that
/// were changed by hand, which files of worlds keep beside it.
constexpr const char* kHead = "# file ";
constexpr size_t kLargestCopy = size_t{1} << 30;

QString lockOf(const QString& copy) {
  return copy + QStringLiteral(".lock");
}

std::string copyText(const QString& file, const acre::Recipe& recipe) {
  return kHead + file.toStdString() + "\n" + acre::recipeToJson(recipe);
}

acre::Result<Autosave::Found> readCopy(const QString& copy) {
  const auto text = acre::readWholeFile(copy.toStdString(), kLargestCopy);
  if (!text) return text.error();
  const size_t end = text->find('\n');
  if (!text->starts_with(kHead) || end == std::string::npos)
    return acre::Error{acre::Error::Code::InvalidInput, "this is no copy of a world",
        copy.toStdString(), "a first line with the world's file"};
  auto recipe = acre::recipeFromJson(std::string_view(*text).substr(end + 1));
  if (!recipe) {
    acre::Error error = recipe.error();
    error.where = copy.toStdString() + (error.where.empty() ? "" : " at " + error.where);
    return error;
  }
  const size_t name = std::string_view(kHead).size();
  const QString file = QString::fromStdString(text->substr(name, end - name));
  recipe->folder = file.isEmpty() ? std::string() : QFileInfo(file).absolutePath().toStdString();
  return Autosave::Found{std::move(*recipe), file, copy};
}

}  // namespace

Autosave::Autosave(Document& document, const QString& folder, int pauseMillis, QObject* parent)
    : QObject(parent), document_(document), folder_(folder) {
  pause_.setSingleShot(true);
  pause_.setInterval(pauseMillis);
  connect(&pause_, &QTimer::timeout, this, &Autosave::save);
  connect(&document_, &Document::recipeChanged, this, [this] {
    if (!pause_.isActive()) pause_.start();  // Not put off by a long drag.
  });
  connect(&document_, &Document::fileChanged, this, [this] {
    if (!document_.modified()) clear();
  });
}

QString Autosave::usualFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) +
         QStringLiteral("/unsaved");
}

QString Autosave::ownFile() const {
  return QStringLiteral("%1/unsaved-%2.acre").arg(folder_).arg(::getpid());
}

void Autosave::prepare() {
  if (lock_) return;
  QDir().mkpath(folder_);
  lock_ = std::make_unique<QLockFile>(lockOf(ownFile()));
  lock_->setStaleLockTime(0);  // Old only when its program is gone.
  lock_->tryLock(0);
}

void Autosave::clear() {
  pause_.stop();
  const std::lock_guard lock(turn_->mutex);
  ++turn_->now;
  QFile::remove(ownFile());
}

void Autosave::save() {
  if (!document_.modified()) return clear();
  prepare();
  // Cells changed by hand can be many: put into words beside the interface.
  document_.engine().executor().submit(
      acre::Priority::CoarseMap, [own = ownFile().toStdString(), file = document_.file(),
                                     recipe = document_.recipe(), turn = turn_, at = turn_->now] {
        const std::string text = copyText(file, recipe);
        const std::lock_guard lock(turn->mutex);
        if (turn->now != at) return;
        (void)acre::writeFile(own, text);
      });
}

void Autosave::saveNow() {
  pause_.stop();
  if (!document_.modified()) return clear();
  prepare();
  const std::string text = copyText(document_.file(), document_.recipe());
  const std::lock_guard lock(turn_->mutex);
  ++turn_->now;
  (void)acre::writeFile(ownFile().toStdString(), text);
}

Autosave::Lost Autosave::findLost() const {
  Lost lost;
  const QFileInfoList copies =
      QDir(folder_).entryInfoList({QStringLiteral("unsaved-*.acre")}, QDir::Files, QDir::Time);
  for (const QFileInfo& copy : copies) {
    if (copy.filePath() == ownFile()) continue;
    QLockFile lock(lockOf(copy.filePath()));
    lock.setStaleLockTime(0);
    if (!lock.tryLock(0)) continue;  // Its program runs.
    auto found = readCopy(copy.filePath());
    if (found) {
      lost.newest = std::move(*found);
      break;  // Older ones are read when this one is gone.
    }
    if (lost.fault.isEmpty()) lost.fault = QString::fromStdString(found.error().text());
  }
  return lost;
}

void Autosave::adopt(const Found& found) {
  prepare();
  const std::lock_guard lock(turn_->mutex);
  ++turn_->now;
  std::error_code none;  // Then both stay, until the next copy.
  std::filesystem::rename(found.copy.toStdString(), ownFile().toStdString(), none);
}

}  // namespace app

#include "moc_autosave.cpp"
