/// A map as a printed sheet: the picture in a frame, and around it what one must know to read it
/// and to make it again.
#pragma once

#include <QImage>
#include <QPainter>
#include <QRect>
#include <QString>
#include <vector>

#include "output/legend.h"
#include "output/map_writer.h"
#include "recipe/differences.h"
#include "world/engine.h"

namespace app {

/// What stands on a sheet besides the map.
struct SheetParts {
  bool title = true;
  bool legend = true;
  bool scale = true;        ///< A bar.
  bool coordinates = true;  ///< Along the frame.
  bool origin = true;       ///< Seed, recipe and area.
  bool command = true;      ///< What makes the picture again.
  bool light = true;
  bool figures = true;  ///< Heights and shares of what the picture shows.
  bool margin = true;
  bool changes = false;  ///< What differs from another world.
  bool operator==(const SheetParts&) const = default;

  static SheetParts none() {
    return {false, false, false, false, false, false, false, false, false, false};
  }
};

/// What a world has otherwise than another of that name.
struct SheetChanges {
  QString from;
  std::vector<acre::RecipeDifference> all;
};

/// Colours are those of printed paper, whatever the window wears. Painted in pixels of the map, by
/// any thread.
class MapSheet {
 public:
  /// lettering: 1 for letters as large as on the screen. found: what the map turned out to show.
  MapSheet(const acre::World& world, const acre::MapRequest& request, const SheetParts& parts,
      double lettering, QString command, const acre::MapReport& found,
      const SheetChanges& changes = {});

  QSize size() const { return size_; }
  QRect map() const { return map_; }
  /// All of it, the map as a picture of any resolution.
  void paint(QPainter& p, const QImage& map) const;

 private:
  struct Swatch {
    QString text;
    QRgb ink;
    bool hatched;
  };
  QFont font(double size, bool serif = false) const;
  int px(double size) const { return static_cast<int>(size * lettering_ + 0.5); }
  void gather(const acre::World& world, const acre::MapReport& found);
  void gatherChanges(const SheetChanges& changes);
  void layOut();
  /// Lines of a text that is as wide as this at most.
  QStringList wrapped(const QString& text, const QFont& font, int width) const;
  void paintTitle(QPainter& p) const;
  void paintFrame(QPainter& p) const;
  int paintColumn(QPainter& p) const;
  int paintScale(QPainter& p, int x, int y) const;
  int paintLight(QPainter& p, int x, int y) const;

  acre::MapRequest request_;
  SheetParts parts_;
  double lettering_;
  QString command_;
  QString title_, subtitle_;
  bool lit_;  ///< The picture has relief.
  std::vector<Swatch> legend_;
  QStringList figures_, origin_, changes_;
  QSize size_;
  QRect map_;
  QRect column_;
  QRect foot_;
};

}  // namespace app
