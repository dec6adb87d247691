/// What all stage editors share: they show the document's recipe and change it step by step.
#pragma once

#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidget>
#include <cmath>
#include <functional>
#include <optional>

#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/tick.h"
#include "recipe/look.h"

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
    QString title = {};  ///< For the undo step; empty: the label.
  };
  /// Finds a part of a recipe; nullptr when it is gone.
  template <class T>
  using Place = std::function<T*(acre::Recipe&)>;
  /// A member that is a number, as its declaration says: label, range, step, unit and words come
  /// from there. now: the part as it is; label: in place of the declared title.
  template <class T, class M>
  static Number declared(
      const T& now, const Place<T>& place, M T::*member, const QString& label = {}) {
    return declaredAs(acre::aboutIn(now, member), place, member, label);
  }
  /// The same of a member whose declaration was found already.
  template <class T, class M>
  static Number declaredAs(
      const acre::About& about, const Place<T>& place, M T::*member, const QString& label = {});
  /// The two numbers of an amount: on the first floor, and what each floor below adds.
  template <class T>
  static std::vector<Number> declaredAmount(
      const T& now, const Place<T>& place, acre::Amount T::*member, const QString& label = {});
  /// All of a number but where it is.
  static Number numberBy(const acre::About& about, const QString& label = {});
  /// A field of such a number. name: of the field, before the member's key.
  NumberField* bindNumber(const QString& name, const QString& of, const Number& number);
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
  /// A share is shown as per cent.
  static double shownTimes(const acre::About& about) { return about.unit == "share" ? 100 : 1; }
  /// A value so many times over, without the dust of binary fractions.
  static double shown(double value, double times) { return std::round(value * times * 1e9) / 1e9; }
  struct Bound {
    NumberField* field;
    Access access;
  };
  std::vector<Bound> bound_;
  QWidget* body_ = nullptr;
};

template <class T, class M>
auto Editor::declaredAs(
    const acre::About& about, const Place<T>& place, M T::*member, const QString& label) -> Number {
  Number number = numberBy(about, label);
  const double times = shownTimes(about);
  number.spec.whole = number.spec.whole || std::is_integral_v<M>;
  number.access.get = [=](const acre::Recipe& r) -> std::optional<double> {
    const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
    if (!part) return {};
    if constexpr (std::is_arithmetic_v<M>)
      return shown(static_cast<double>(part->*member), times);
    else
      return part->*member ? std::optional(shown(*(part->*member), times)) : std::nullopt;
  };
  number.access.set = [=](acre::Recipe& r, double v) {
    T* part = place(r);
    if (!part) return;
    if constexpr (std::is_integral_v<M>)
      part->*member = static_cast<M>(std::llround(v));
    else
      part->*member = v / times;
  };
  return number;
}

template <class T>
auto Editor::declaredAmount(const T& now, const Place<T>& place, acre::Amount T::*member,
    const QString& label) -> std::vector<Number> {
  const acre::About about = acre::aboutIn(now, member);
  const double times = shownTimes(about);
  const auto access = [=](double acre::Amount::*end) {
    return Access{[=](const acre::Recipe& r) -> std::optional<double> {
                    const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
                    return part ? std::optional(shown(part->*member.*end, times)) : std::nullopt;
                  },
        [=](acre::Recipe& r, double v) {
          if (T* part = place(r)) part->*member.*end = v / times;
        }};
  };
  Number first = numberBy(about, label);
  const double span = first.spec.range.high - first.spec.range.low;
  Number more{tr("per floor"), first.key + QStringLiteral(".perFloor"),
      {{-span, span}, first.spec.step / 4, false, false, first.spec.unit},
      access(&acre::Amount::perFloor),
      tr("%1: so much more on each floor below the first.").arg(first.label),
      tr("%1 per floor").arg(first.title)};
  first.access = access(&acre::Amount::at);
  return {std::move(first), std::move(more)};
}

}  // namespace app
