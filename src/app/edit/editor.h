/// What all stage editors share: they show the document's recipe and change it step by step.
#pragma once

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidget>
#include <cmath>
#include <functional>
#include <optional>

#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/preview.h"
#include "app/edit/text_box.h"
#include "app/edit/tick.h"
#include "app/look/caption.h"
#include "recipe/look.h"

namespace app {

/// What an editor tells of the view, while it is seen.
class ViewFollower {
 public:
  virtual ~ViewFollower() = default;
  virtual void setView(const MapGeometry& view) = 0;
  virtual void refresh() = 0;
  virtual void hide() = 0;
};

/// A column of controls for one stage. Derived classes build their controls in rebuild() and bring
/// values up to date in refresh(); both only read the document.
class Editor : public QWidget {
  Q_OBJECT

 public:
  explicit Editor(Document& document, QWidget* parent = nullptr);
  ~Editor() override;

  /// Brings the controls up to date with the document.
  virtual void refresh() = 0;
  /// Where the map is, for small pictures.
  virtual void setView(const MapGeometry& view);
  /// The small pictures in the tooltips of its numbers.
  Previews& previews() { return *previews_; }
  /// What stands in the editor's head.
  virtual QString figures() const { return {}; }
  /// Shows the control of a place in the recipe.
  virtual void showPointer(const std::string&) {}

 signals:
  void refused(const QString& reason);
  void leaveRequested();   ///< Esc: the map takes the focus.
  void switchRequested();  ///< The stage on or off.
  void figuresChanged();

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;
  /// It is told of the view, and when the editor is seen; a member of the editor.
  void followView(ViewFollower& figures) { follower_ = &figures; }
  using Access = NumberAccess;

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

  /// Brings every bound control up to date.
  void refreshControls();
  void clearBindings() {
    bound_.clear();
    followers_.clear();
  }

  /// Applies an edit to a copy of the recipe and makes it a step.
  bool apply(const QString& step, const std::function<void(acre::Recipe&)>& edit,
      const QString& mergeKey = {});

  // Controls of other kinds that follow the recipe and change it. name: of the control, step: of
  // the undo step, which says too what it is; get: nothing when its place is gone. A tick's step
  // ends in "on" or "off".
  Tick* bindTick(const QString& name, const QString& words, const QString& step, const QString& tip,
      std::function<std::optional<bool>(const acre::Recipe&)> get,
      std::function<void(acre::Recipe&, bool)> set);
  /// Words, and what each stands for.
  using Offered = std::vector<std::pair<QString, std::string>>;
  Choice* bindChoice(const QString& name, const QString& step, const QString& tip,
      const Offered& offered, std::function<std::optional<std::string>(const acre::Recipe&)> get,
      std::function<void(acre::Recipe&, const std::string&)> set);
  /// check: why a text cannot be taken; empty: it can.
  QLineEdit* bindText(const QString& name, const QString& step, const QString& tip,
      std::function<std::optional<std::string>(const acre::Recipe&)> get,
      std::function<void(acre::Recipe&, const std::string&)> set,
      std::function<QString(const std::string&)> check = {});
  /// Some lines for people, as bindText(); taken over when they are left.
  TextBox* bindNote(const QString& name, const QString& step,
      std::function<std::optional<std::string>(const acre::Recipe&)> get,
      std::function<void(acre::Recipe&, const std::string&)> set);
  /// A swatch that opens the dialog of colours.
  QToolButton* bindColour(const QString& name, const QString& step,
      std::function<const acre::Colour*(const acre::Recipe&)> get,
      std::function<void(acre::Recipe&, const acre::Colour&)> set);
  /// A button whose edit is a step; empty: that of its words.
  QPushButton* button(const QString& words, const QString& name, const QString& tip,
      std::function<void(acre::Recipe&)> edit, const QString& step = {});
  /// The same choice with swatches of the materials that it offers.
  Choice* inked(Choice* choice);
  /// What stands first, then the materials.
  Offered materials(Offered first = {}) const;
  /// Runs whenever the controls are brought up to date, until they are made anew.
  void follow(std::function<void(const acre::Recipe&)> act) {
    followers_.push_back(std::move(act));
  }

  template <class T>
  class Form;
  template <class T>
  Form<T> form(const T& now, Place<T> place, const QString& key, const QString& of) {
    return {*this, now, std::move(place), key, of};
  }

  /// A row of controls at the end of a column.
  class Row {
   public:
    explicit Row(QVBoxLayout* column, int spacing = 5) : row_(new QHBoxLayout) {
      row_->setSpacing(spacing);
      column->addLayout(row_);
    }
    Row& add(QWidget* control, int stretch = 0) {
      row_->addWidget(control, stretch);
      return *this;
    }
    Row& add(NumberField* field, int width) {
      if (width > 0) field->setFixedWidth(width);
      row_->addWidget(field);
      return *this;
    }
    Row& words(const QString& text) { return add(caption(text)); }
    Row& space(int pixels) {
      row_->addSpacing(pixels);
      return *this;
    }
    Row& rest() {
      row_->addStretch(1);
      return *this;
    }
    QHBoxLayout* layout() { return row_; }

   private:
    QHBoxLayout* row_;
  };
  /// A rule, and a heading below it.
  static void section(QVBoxLayout* column, const QString& title);
  /// The same for a list, which is copied and pasted as spreadsheets have it. pointer: of the list.
  void listSection(QVBoxLayout* column, const QString& title, const std::string& pointer);
  QToolButton* tableButton(const QString& title, const std::string& pointer);
  /// A small × whose edit is a step of the tip's name.
  QToolButton* deleteButton(
      const QString& name, const QString& tip, std::function<void(acre::Recipe&)> edit);

  static QLabel* caption(const QString& text, bool wraps = false) {
    return look::caption(text, wraps);
  }
  static QLabel* heading(const QString& text);
  static QWidget* ruleLine();

  Document& document_;
  Previews* previews_;

 private:
  /// A share is shown as per cent.
  static double shownTimes(const acre::About& about) { return about.unit == "share" ? 100 : 1; }
  /// A value so many times over, without the dust of binary fractions.
  static double shown(double value, double times) { return std::round(value * times * 1e9) / 1e9; }
  struct Bound {
    NumberField* field;
    Access access;
  };
  ViewFollower* follower_ = nullptr;
  std::vector<Bound> bound_;
  std::vector<std::function<void(const acre::Recipe&)>> followers_;
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

/// The controls of one part of the recipe. Their names, words, ranges, units and undo steps come
/// from the part's declaration.
template <class T>
class Editor::Form {
 public:
  /// key: before the members' keys in the controls' names. of: "a bed", for undo steps.
  Form(Editor& editor, const T& now, Place<T> place, QString key, QString of)
      : editor_(editor),
        now_(now),
        place_(std::move(place)),
        key_(std::move(key)),
        of_(std::move(of)) {}

  template <class M>
  NumberField* number(M T::*member, const QString& label = {}) const {
    return editor_.bindNumber(key_, of_, declared<T>(now_, place_, member, label));
  }
  /// With its words before it.
  template <class M>
  const Form& number(
      Row& row, M T::*member, int width = kNumberWidth, const QString& label = {}) const {
    const Number one = declared<T>(now_, place_, member, label);
    row.words(one.label).add(editor_.bindNumber(key_, of_, one), width);
    return *this;
  }
  /// Numbers in a grid, so many a row.
  template <class... M>
  void numbers(QVBoxLayout* column, int across, M T::*... members) const {
    editor_.addNumbers(column, key_, of_, {declared<T>(now_, place_, members)...}, across);
  }

  Tick* tick(bool T::*member, const QString& words) const {
    const acre::About about = acre::aboutIn(now_, member);
    return tick(about, words, stepOf(about), member);
  }
  /// Switches the part.
  Tick* onTick(bool T::*member) const {
    Tick* made = tick(acre::aboutIn(now_, member), {}, tr("Switch %1").arg(of_), member);
    made->setAccessibleName(tr("%1 on").arg(of_));
    return made;
  }
  QLineEdit* text(
      std::string T::*member, std::function<QString(const std::string&)> check = {}) const {
    const acre::About about = acre::aboutIn(now_, member);
    auto* made = editor_.bindText(
        nameOf(about), stepOf(about), words(about.what), got(member),
        [place = place_, member](acre::Recipe& r, const std::string& v) {
          if (T* part = place(r)) part->*member = v;
        },
        std::move(check));
    if (about.role == acre::Role::Name)
      made->setMaxLength(static_cast<int>(std::min<size_t>(about.most, 100)));
    return made;
  }
  Choice* choice(std::string T::*member, const Offered& offered) const {
    const acre::About about = acre::aboutIn(now_, member);
    return editor_.bindChoice(nameOf(about), stepOf(about), words(about.what), offered, got(member),
        [place = place_, member](acre::Recipe& r, const std::string& v) {
          if (T* part = place(r)) part->*member = v;
        });
  }
  Choice* material(std::string T::*member, const Offered& first = {}) const {
    return choice(member, editor_.materials(first));
  }
  /// One of an enumeration, in its order.
  template <class E>
  requires std::is_enum_v<E> Choice* choice(
      E T::*member, const QStringList& said, const QString& tip = {}) const {
    const acre::About about = acre::aboutIn(now_, member);
    return editor_.bindChoice(
        nameOf(about), stepOf(about), tip.isEmpty() ? words(about.what) : tip, numbered(said),
        [place = place_, member](const acre::Recipe& r) -> std::optional<std::string> {
          const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
          return part ? std::optional(std::to_string(static_cast<int>(part->*member)))
                      : std::nullopt;
        },
        [place = place_, member](acre::Recipe& r, const std::string& v) {
          if (T* part = place(r)) part->*member = static_cast<E>(std::stoi(v));
        });
  }

  /// What no single member says. key: of the control's name; step: of the undo step.
  Tick* tick(const char* key, const QString& words, const QString& step, const QString& tip,
      std::function<bool(const T&)> get, std::function<void(T&, bool)> set) const {
    return editor_.bindTick(
        named(key), words, step, tip,
        [place = place_, get = std::move(get)](const acre::Recipe& r) -> std::optional<bool> {
          const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
          return part ? std::optional(get(*part)) : std::nullopt;
        },
        [place = place_, set = std::move(set)](acre::Recipe& r, bool on) {
          if (T* part = place(r)) set(*part, on);
        });
  }
  Choice* choice(const char* key, const QString& step, const QString& tip, const QStringList& said,
      std::function<int(const T&)> get, std::function<void(T&, int)> set) const {
    return editor_.bindChoice(
        named(key), step, tip, numbered(said),
        [place = place_, get = std::move(get)](
            const acre::Recipe& r) -> std::optional<std::string> {
          const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
          return part ? std::optional(std::to_string(get(*part))) : std::nullopt;
        },
        [place = place_, set = std::move(set)](acre::Recipe& r, const std::string& v) {
          if (T* part = place(r)) set(*part, std::stoi(v));
        });
  }
  NumberField* number(const char* key, const QString& step, const NumberSpec& spec,
      const QString& tip, std::function<std::optional<double>(const T&)> get,
      std::function<void(T&, double)> set) const {
    return editor_.bindNumber(spec, named(key), step,
        {[place = place_, get = std::move(get)](const acre::Recipe& r) -> std::optional<double> {
           const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
           return part ? get(*part) : std::nullopt;
         },
            [place = place_, set = std::move(set)](acre::Recipe& r, double v) {
              if (T* part = place(r)) set(*part, v);
            }},
        tip);
  }
  /// The form of a part within this one.
  template <class P>
  Form<P> within(const P& now, std::function<P*(T&)> of, const QString& key = {}) const {
    return {editor_, now,
        [place = place_, of = std::move(of)](acre::Recipe& r) -> P* {
          T* part = place(r);
          return part ? of(*part) : nullptr;
        },
        key.isEmpty() ? key_ : key, of_};
  }
  QString named(const char* key) const { return key_ + QLatin1Char('.') + QLatin1String(key); }
  const QString& key() const { return key_; }
  /// Calls visit(key, field) with the fields of its numbers that were made so far.
  template <class Visit>
  void eachNumber(Visit&& visit) const {
    const QString before = key_ + QLatin1Char('.');
    for (auto* field : editor_.template findChildren<NumberField*>())
      if (const QString name = field->objectName(); name.startsWith(before))
        visit(name.mid(before.size()), field);
  }
  const Place<T>& place() const { return place_; }

 private:
  static QString words(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
  }
  static Offered numbered(const QStringList& said) {
    Offered out;
    for (const QString& each : said) out.emplace_back(each, std::to_string(out.size()));
    return out;
  }
  QString nameOf(const acre::About& about) const {
    return key_ + QLatin1Char('.') + words(about.key);
  }
  QString stepOf(const acre::About& about) const {
    return tr("%1 of %2").arg(words(about.title), of_);
  }
  auto got(std::string T::*member) const {
    return [place = place_, member](const acre::Recipe& r) -> std::optional<std::string> {
      const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
      return part ? std::optional(part->*member) : std::nullopt;
    };
  }
  Tick* tick(
      const acre::About& about, const QString& said, const QString& step, bool T::*member) const {
    return editor_.bindTick(
        nameOf(about), said, step, words(about.what),
        [place = place_, member](const acre::Recipe& r) -> std::optional<bool> {
          const T* part = place(const_cast<acre::Recipe&>(r));  // Only looked at.
          return part ? std::optional(part->*member) : std::nullopt;
        },
        [place = place_, member](acre::Recipe& r, bool on) {
          if (T* part = place(r)) part->*member = on;
        });
  }

  Editor& editor_;
  const T& now_;
  Place<T> place_;
  QString key_, of_;
};

}  // namespace app
