#include "app/window/settings.h"

#include <algorithm>

#include "app/document/autosave.h"

namespace app {

Settings::Settings(const QString& file)
    : file_(file),
      store_(file.isEmpty() ? std::make_unique<QSettings>(
                                  QStringLiteral("kindred-acre"), QStringLiteral("kindred-acre"))
                            : std::make_unique<QSettings>(file, QSettings::IniFormat)) {}

QString Settings::autosaveFolder() const {
  return file_.isEmpty() ? Autosave::usualFolder() : file_ + QStringLiteral(".unsaved");
}

void Settings::noteFile(const QString& file) {
  QStringList files = recentFiles();
  files.removeAll(file);
  files.prepend(file);
  while (files.size() > kRecent) files.removeLast();
  write("recentFiles", files);
}

qint64 Settings::viewDistance() const {
  return std::clamp<qint64>(read("viewDistance", 320).toLongLong(), 0, 65'536);
}

}  // namespace app
