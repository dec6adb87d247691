/// Editor of the stage Tiles: groups of materials, the sets that they are drawn with, and what is
/// wrong with these.
#pragma once

#include <map>

#include "app/edit/editor.h"
#include "app/edit/view_figures.h"
#include "app/tiles/set_sheet.h"
#include "app/tiles/trial_board.h"
#include "recipe/tile_recipe.h"

namespace app {

class TilesEditor : public Editor {
  Q_OBJECT

 public:
  explicit TilesEditor(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void showPointer(const std::string& pointer) override;
  QString figures() const override;

  /// The figures are those of the present world and view.
  bool settled() const { return inView_.settled(); }
  /// A set's tiles from a picture, as one step: which is which is told from what they show.
  void readPicture(const QString& set, const QString& file);
  /// The set as a picture to paint over, and beside it, as NAME-numbers.png, one that tells which
  /// is which.
  void writePicture(const QString& set, const QString& file);

  /// The nearest tile without a picture to a cell; nothing: there is none in view.
  std::optional<acre::Cell> hole() const;

 signals:
  /// Somebody asks for a file to read a set's tiles from, or to write them to.
  void pictureRequested(const QString& set, bool reads);
  void refused(const QString& reason);
  void told(const QString& what);

 private:
  /// All that is measured of a view.
  struct Found {
    acre::TileFigures figures;
    std::map<std::string, std::shared_ptr<const SheetOfSet>> sets;  ///< By id.
    std::map<std::string, std::string> faults;                      ///< Sets that cannot be read.
  };
  static std::optional<Found> measure(
      const acre::World& world, const acre::Rect& area, const std::stop_token& stop);

  static constexpr int kNumbersAcross = 2;
  void rebuild();
  void addGroup(QVBoxLayout* column, const acre::TileGroup& group);
  void addSet(QVBoxLayout* column, const acre::TileSet& set);
  void addSetForm(QVBoxLayout* column, const Form<acre::TileSet>& made, const acre::TileSet& set);
  void addWeights(QVBoxLayout* column, const Form<acre::TileSet>& made, const acre::TileSet& set);
  void embedPicture(const std::string& id);
  void moveGroup(const std::string& id, int by, const QString& step);
  void showFigures();

  QVBoxLayout* column_;
  std::string built_;
  std::string opened_;  ///< Id of the set that is open.
  struct OpenSet {
    SetSheet* sheet = nullptr;
    TrialBoard* board = nullptr;
    QLabel* report = nullptr;
    QLabel* ways = nullptr;
  };
  OpenSet open_;
  std::map<std::string, QLabel*> found_;  ///< By group.
  ViewFigures<Found> inView_;
};

}  // namespace app
