/// Editor of the stage Objects: kinds in order of precedence, and what became of them in the view.
#pragma once

#include <map>

#include "app/edit/editor.h"
#include "app/edit/view_figures.h"
#include "audit/object_figures.h"
#include "recipe/object_recipe.h"

namespace app {

class ObjectsEditor : public Editor {
  Q_OBJECT

 public:
  explicit ObjectsEditor(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void showPointer(const std::string& pointer) override;
  void setView(const MapGeometry& view) override;
  QString figures() const override;

  /// The figures are those of the present world and view.
  bool settled() const { return inView_.settled(); }
  /// Of the view's middle, by kind; empty before they were measured once.
  std::vector<acre::ObjectFigures> found() const;

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  void rebuild();
  void addKind(QVBoxLayout* column, const acre::ObjectKind& kind);
  /// The ends of a condition, once it is asked for.
  void addSpan(QVBoxLayout* column, const Form<acre::ObjectKind>& made,
      const acre::ObjectKind& kind, acre::Span acre::ObjectKind::*member, const QString& words);
  /// What they may stand on, and what they keep from.
  void addGround(
      QVBoxLayout* column, const Form<acre::ObjectKind>& made, const acre::ObjectKind& kind);
  void addChoices(QVBoxLayout* column, const acre::ObjectKind& kind);
  void moveKind(const std::string& id, int by, const QString& step);
  void showFigures();

  QVBoxLayout* column_;
  std::string built_;
  std::map<std::string, QLabel*> labels_;  ///< By kind.
  ViewFigures<std::vector<acre::ObjectFigures>> inView_;
};

}  // namespace app
