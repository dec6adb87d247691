/// What all stage editors share: they show the document's recipe and change it step by step.
#pragma once

#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidget>
#include <functional>
#include <optional>

#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/tick.h"

namespace app {

/// A column of controls for one stage. Derived classes build their controls in rebuild() and bring
/// values up to date in refresh(); both only read the document.
class Editor : public QWidget {
  Q_OBJECT

 public:
  explicit Editor(Document& document, QWidget* parent = nullptr);
  ~Editor() override;

  /// Brings the controls up to date with the document.
  virtual void refresh() = 0;
  /// What stands in the editor's head.
  virtual QString figures() const { return {}; }
  /// Shows the control of a place in the recipe.
  virtual void showPointer(const std::string&) {}

 signals:
  void refused(const QString& reason);
  void leaveRequested();  ///< Esc: the map takes the focus.

 protected:
  /// A number of the recipe: how to read it (nothing when its place is gone) and how to set it.
  struct Access {
    std::function<std::optional<double>(const acre::Recipe&)> get;
    std::function<void(acre::Recipe&, double)> set;
  };

  /// A number field bound to a place of the recipe; `step` names the undo step.
  NumberField* bindNumber(const NumberSpec& spec, const QString& name, const QString& step,
      Access access, const QString& toolTip);
  /// A number of a row of them: how it is called, what it may be, where it is.
  struct Number {
    QString label;
    QString key;  ///< Of its name, behind that of the part.
    NumberSpec spec;
    Access access;
    QString tip;
  };
  static constexpr int kNumberWidth = 70;
  /// Numbers of one part in a grid, so many a row. of: what they belong to, for the undo step.
  void addNumbers(QVBoxLayout* column, const QString& key, const QString& of,
      const std::vector<Number>& numbers, int across);
  /// An empty column in place of the page's present one, whose fields are forgotten.
  QVBoxLayout* newBody(QVBoxLayout* page, int stretch);
  /// Says that the stage is off, with a button to switch it on.
  static void addSwitch(
      QVBoxLayout* column, const QString& words, const QString& name, std::function<void()> on);

  /// Brings every bound field up to date.
  void refreshNumbers();
  void clearBindings() { bound_.clear(); }

  /// Applies an edit to a copy of the recipe and makes it a step.
  bool apply(const QString& step, const std::function<void(acre::Recipe&)>& edit,
      const QString& mergeKey = {});

  /// A choice among what stands first and the materials; set(recipe, id).
  Choice* materialChoice(const QString& name, const QString& step, const std::string& current,
      const std::vector<std::pair<QString, std::string>>& first,
      std::function<void(acre::Recipe&, const std::string&)> set);
  /// A small × whose edit is a step of the tip's name.
  QToolButton* deleteButton(
      const QString& name, const QString& tip, std::function<void(acre::Recipe&)> edit);

  static QLabel* caption(const QString& text);
  static QLabel* heading(const QString& text);
  static QWidget* ruleLine();

  Document& document_;

 private:
  struct Bound {
    NumberField* field;
    Access access;
  };
  std::vector<Bound> bound_;
  QWidget* body_ = nullptr;
};

}  // namespace app
