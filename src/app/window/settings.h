/// What the application remembers between runs: one table of keys, one place of access.
#pragma once

#include <QSettings>
#include <QStringList>
#include <algorithm>
#include <memory>

#include "output/picture.h"

namespace app {

class Settings {
 public:
  /// file: an ini file; empty: the user's own.
  explicit Settings(const QString& file = {});

  QStringList recentFiles() const { return read("recentFiles").toStringList(); }
  void noteFile(const QString& file);
  QStringList seeds() const { return read("seeds").toStringList(); }
  void setSeeds(const QStringList& seeds) { write("seeds", seeds); }
  bool night() const { return read("night", false).toBool(); }
  void setNight(bool night) { write("night", night); }
  bool chunksShown() const { return read("chunksShown", true).toBool(); }
  void setChunksShown(bool shown) { write("chunksShown", shown); }
  bool ringShown() const { return read("ringShown", true).toBool(); }
  void setRingShown(bool shown) { write("ringShown", shown); }
  qint64 viewDistance() const;
  void setViewDistance(qint64 cells) { write("viewDistance", cells); }
  double contours() const { return read("contours", 0).toDouble(); }
  void setContours(double interval) { write("contours", interval); }
  double light() const { return read("light", 315).toDouble(); }
  void setLight(double degrees) { write("light", degrees); }
  /// How strongly slopes are lit, 0 to 1.
  double relief() const {
    return std::clamp(read("relief", acre::Style::kRelief).toDouble(), 0.0, 1.0);
  }
  void setRelief(double strength) { write("relief", strength); }
  /// How a picture was exported last: the places in the dialog's choices, and a bit for each part.
  int exportFormat() const { return read("export/format", 0).toInt(); }
  int exportPreset() const { return read("export/preset", 0).toInt(); }
  uint exportParts() const { return read("export/parts", 0).toUInt(); }
  void setExport(int format, int preset, uint parts) {
    write("export/format", format);
    write("export/preset", preset);
    write("export/parts", parts);
  }
  /// Height of the small pane, in pixels.
  bool penSigns() const { return read("penSigns", true).toBool(); }
  void setPenSigns(bool on) { write("penSigns", on); }
  int smallPane() const { return std::clamp(read("smallPane", 0).toInt(), 0, 4000); }
  void setSmallPane(int pixels) { write("smallPane", pixels); }
  /// Who draws the walk view: a WalkView::Backend.
  int walkDrawing() const { return std::clamp(read("walkDrawing", 0).toInt(), 0, 2); }
  void setWalkDrawing(int backend) { write("walkDrawing", backend); }
  /// Where copies of unsaved changes go: beside a settings file of one's own, else the usual place.
  QString autosaveFolder() const;
  /// Hints that the user no longer needs.
  QStringList hintsDone() const { return read("hintsDone").toStringList(); }
  void setHintsDone(const QStringList& done) { write("hintsDone", done); }
  QByteArray geometry() const { return read("geometry").toByteArray(); }
  void setGeometry(const QByteArray& geometry) { write("geometry", geometry); }

  static constexpr int kRecent = 10;

 private:
  QVariant read(const char* key, const QVariant& fallback = {}) const {
    return store_->value(QLatin1String(key), fallback);
  }
  void write(const char* key, const QVariant& value) {
    store_->setValue(QLatin1String(key), value);
  }
  QString file_;
  std::unique_ptr<QSettings> store_;
};

}  // namespace app
