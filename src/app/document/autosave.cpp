#include "app/document/autosave.h"

#include <signal.h>
#include <unistd.h>

#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>
#include <cerrno>

#include "base/atomic_file.h"
#include "recipe/json.h"

namespace app {
namespace {

/// The first line of a copy names the world's own file; the recipe follows.
constexpr const char* kHead = "# file ";

/// Copies are called unsaved-PID.acre.
std::optional<qint64> programOf(const QString& name) {
  bool fine = false;
  const qint64 pid = QString(name)
                         .remove(QStringLiteral("unsaved-"))
                         .remove(QStringLiteral(".acre"))
                         .toLongLong(&fine);
  return fine && pid > 0 ? std::optional(pid) : std::nullopt;
}

bool runs(qint64 pid) {
  return ::kill(static_cast<pid_t>(pid), 0) == 0 || errno == EPERM;
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

void Autosave::clear() {
  pause_.stop();
  const std::lock_guard lock(turn_->mutex);
  ++turn_->now;
  QFile::remove(ownFile());
}

void Autosave::save() {
  if (!document_.modified()) return clear();
  QDir().mkpath(folder_);
  const std::string text =
      kHead + document_.file().toStdString() + "\n" + acre::recipeToJson(document_.recipe());
  document_.engine().executor().submit(acre::Priority::CoarseMap,
      [file = ownFile().toStdString(), text, turn = turn_, at = turn_->now] {
        const std::lock_guard lock(turn->mutex);
        if (turn->now != at) return;
        (void)acre::writeFile(file, text);
      });
}

std::optional<Autosave::Found> Autosave::findLost() const {
  const QFileInfoList copies =
      QDir(folder_).entryInfoList({QStringLiteral("unsaved-*.acre")}, QDir::Files, QDir::Time);
  for (const QFileInfo& copy : copies) {
    const auto pid = programOf(copy.fileName());
    if (!pid || runs(*pid)) continue;
    const auto text = acre::readWholeFile(copy.filePath().toStdString(), acre::kLargestRecipeFile);
    if (!text || !text->starts_with(kHead)) continue;
    const size_t end = text->find('\n');
    auto recipe = acre::recipeFromJson(std::string_view(*text).substr(end + 1));
    if (!recipe) continue;
    const QString file = QString::fromStdString(text->substr(7, end - 7));
    recipe->folder = file.isEmpty() ? std::string() : QFileInfo(file).absolutePath().toStdString();
    return Found{std::move(*recipe), file, copy.filePath()};
  }
  return {};
}

void Autosave::drop(const Found& found) {
  QFile::remove(found.copy);
}

}  // namespace app
