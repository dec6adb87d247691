/// Two small pictures in the tooltip of a number: what is made of a lower value, and of a higher.
#pragma once

#include <QImage>
#include <QObject>
#include <QWidget>
#include <functional>
#include <map>
#include <optional>
#include <utility>

#include "app/document/document.h"
#include "app/document/probe.h"
#include "app/edit/number_field.h"
#include "app/map/geometry.h"
#include "output/picture.h"

namespace app {

/// Where a number of the recipe is: how to read it (nothing when its place is gone), and to set it.
struct NumberAccess {
  std::function<std::optional<double>(const acre::Recipe&)> get;
  std::function<void(acre::Recipe&, double)> set;
};

inline constexpr QSize kSmallPicture{96, 64};

/// What a small picture shows of a world, where the map is. Called off the interface's thread.
using SmallPicture = std::function<QImage(const acre::World&, const MapGeometry&)>;

/// A picture from above. near: no coarser than caves are exact.
QImage fromAbove(const acre::World& world, const acre::Picture& picture, const MapGeometry& view,
    bool near = false);
/// The ground cut from west to east through the middle of the view, as high as it is wide.
QImage alongCut(const acre::World& world, const MapGeometry& view);

/// Of a lower value and of a higher.
using Pictures = std::pair<QImage, QImage>;

/// Two pictures that are to be compared, of two worlds.
using PicturePair =
    std::function<Pictures(const acre::World& low, const acre::World& high, const MapGeometry&)>;

/// The passages of a tunnel system near the middle of the view, seen from above through the ground,
/// whole: of the nearest square whose passages are not the same in both worlds.
Pictures passagesOf(const acre::World& low, const acre::World& high, const MapGeometry& view,
    const std::string& tunnels);

/// The pictures of all numbers of an editor.
class Previews : public QObject {
  Q_OBJECT

 public:
  Previews(Document& document, QObject* parent);

  void setPicture(SmallPicture picture) { picture_ = std::move(picture); }
  bool hasPicture() const { return static_cast<bool>(picture_); }
  void setView(const MapGeometry& view) { view_ = view; }
  /// Shows half and twice the present value, as far as its range goes, in the editor's picture.
  void watch(NumberField* field, const NumberSpec& spec, NumberAccess access);
  /// A label that has the field's pictures in its tooltip too.
  void lend(QWidget* label, NumberField* field);
  /// Two values of its own.
  void setEnds(const NumberField* field, double low, double high) {
    watched_.at(field).ends = {low, high};
  }
  /// Pictures of its own.
  void setPicturesOf(const NumberField* field, PicturePair pictures) {
    watched_.at(field).pictures = std::move(pictures);
  }
  /// The values that are shown for a field; nothing where none differs from the present one.
  std::optional<std::pair<double, double>> endsOf(const NumberField* field) const;

 signals:
  /// The pictures are there; either is null where the value cannot be taken.
  void shown(const QImage& low, const QImage& high);

 protected:
  bool eventFilter(QObject*, QEvent*) override;

 private:
  struct Watched {
    NumberSpec spec;
    NumberAccess access;
    std::optional<std::pair<double, double>> ends;
    PicturePair pictures;
  };
  void ask(NumberField* field, QWidget* pointed);

  Document& document_;
  Probe<Pictures> probe_;
  SmallPicture picture_;
  MapGeometry view_;
  std::map<const QObject*, Watched> watched_;
  std::map<const QObject*, NumberField*> lent_;
};

}  // namespace app
