/// Editor of the stage Objects: kinds in order of precedence, and what became of them in the view.
#pragma once

#include <map>

#include "app/edit/editor.h"
#include "app/edit/view_figures.h"
#include "app/objects/reason_bars.h"
#include "audit/object_figures.h"
#include "recipe/object_recipe.h"

namespace app {

class ObjectsEditor : public Editor {
  Q_OBJECT

 public:
  explicit ObjectsEditor(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void showPointer(const std::string& pointer) override;
  QString figures() const override;

  /// The figures are those of the present world and view.
  bool settled() const { return inView_.settled(); }
  /// Of the view's middle, by kind; empty before they were measured once.
  std::vector<acre::ObjectFigures> found() const;
  /// Signs and layers of a piece from a file, as one step, and to a file.
  void readPiece(const QString& id, const QString& file);
  void writePiece(const QString& id, const QString& file);

 signals:
  /// Somebody asks for a file to read a piece from, or to write it to.
  void pieceFileRequested(const QString& piece, bool reads);
  /// Somebody wants to see a style of trees grow.
  void benchRequested(const QString& style);

 private:
  static constexpr int kNumbersAcross = 2;
  void rebuild();
  void addKind(QVBoxLayout* column, const acre::ObjectKind& kind);
  /// Densities of its own in single biomes.
  void addBiomes(QVBoxLayout* column, const acre::ObjectKind& kind);
  /// The ends of a condition, each of which may be left open.
  template <class T>
  void addSpan(QVBoxLayout* column, const Form<T>& made, const T& kind, acre::Span T::*member,
      const QString& words, int indent = 0);
  /// What the noise of a level's walls has there.
  void addNoise(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  /// On the ground, or in which caves.
  void addStand(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  /// How many, and how far apart.
  void addAmount(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  /// What they keep from and stay by, and how even the ground is.
  void addNeighbours(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  QString foundText(const acre::ObjectFigures& one) const;
  /// What they may stand on.
  void addGround(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  void addChoices(QVBoxLayout* column, const acre::ObjectKind& kind);
  /// How often and where one of them is drawn. sum: of the weights.
  void addChoicePlaces(QVBoxLayout* column, const Form<acre::ObjectChoice>& made,
      const acre::ObjectChoice& one, double sum,
      const std::function<acre::ObjectChoice*(acre::Recipe&)>& choiceIn);
  Offered fieldsOffered(const QString& none) const;
  /// What they are made of.
  void addMade(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  /// A choice of what it is made of, a piece or a tree. none: what nothing means.
  template <class T>
  Choice* madeChoice(const Form<T>& made, const Place<T>& place, const QString& none);
  Offered madeOffered(const QString& none) const;
  /// A curve of a kind whose values are shares.
  void addCurve(QVBoxLayout* column, const QString& name, const QString& said,
      const std::string& id, acre::Curve acre::ObjectKind::*member);
  /// Opens the controls of one of a list, or closes them. opened: the id of the one that is open.
  QToolButton* openButton(const QString& word, const QString& name, const QString& tip,
      std::string ObjectsEditor::*opened, const std::string& id);
  // Of piece_controls.cpp.
  void addPieces(QVBoxLayout* column);
  void addPiece(QVBoxLayout* column, const acre::ObjectPiece& piece);
  void addDrawing(
      QVBoxLayout* column, const Form<acre::ObjectPiece>& made, const acre::ObjectPiece& piece);
  // Of tree_controls.cpp.
  void addTrees(QVBoxLayout* column);
  void addTree(QVBoxLayout* column, const acre::TreeStyle& style);
  void addTreeForm(
      QVBoxLayout* column, const Form<acre::TreeStyle>& made, const acre::TreeStyle& style);
  void moveKind(const std::string& id, int by, const QString& step);
  void showFigures();

  QVBoxLayout* column_;
  std::string built_;
  std::string drawing_;  ///< Id of the piece that is open to be drawn on; empty: none.
  size_t layer_ = 0;     ///< Of it.
  QString ink_;          ///< Material that it is drawn with, or a word.
  std::string growing_;  ///< Id of the style of trees that is open; empty: none.
  /// What became of a kind, by its id.
  struct Found {
    QLabel* label;
    ReasonBars* bars;
  };
  std::map<std::string, Found> found_;
  ViewFigures<std::vector<acre::ObjectFigures>> inView_;
};

}  // namespace app
