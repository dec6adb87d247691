/// Editor of the Caves stage: tunnel systems, noise voids, automata, what lines them.
#pragma once

#include <map>

#include "app/document/statistics.h"
#include "app/edit/editor.h"
#include "recipe/cave_recipe.h"

namespace app {

class CavesEditor : public Editor {
  Q_OBJECT

 public:
  CavesEditor(Document& document, const Statistics& statistics, QWidget* parent = nullptr);
  void refresh() override;
  /// What was found of the parts; cheap.
  void refreshFound();
  /// What the stage amounts to, for the head of the editor.
  QString figures() const override;
  /// Puts the focus on the control at a JSON pointer of the stage.
  void showPointer(const std::string& pointer) override;

 private:
  /// A number of a part: how it is called, what it may be, and where it is.
  template <class T>
  using List = std::vector<T> acre::Caves::*;

  void rebuild();
  void addTunnels(QVBoxLayout* column, const acre::Tunnels& part);
  void addVoid(QVBoxLayout* column, const acre::NoiseVoid& part);
  void addAutomaton(QVBoxLayout* column, const acre::AutomatonLayer& part);
  void addKind(QVBoxLayout* column, const acre::CaveKind& kind);
  void addButtons(QVBoxLayout* column);
  template <class T>
  Form<T> addHead(QVBoxLayout* column, List<T> list, const T& part, const QString& what);
  QLabel* foundLabel(const std::string& id);

  const Statistics& statistics_;
  QVBoxLayout* column_;
  std::string built_;
  std::map<std::string, QLabel*> found_;  // By part.
};

}  // namespace app
