#include "app/edit/editor.h"

#include <QFrame>
#include <QGridLayout>
#include <QPushButton>

#include "app/look/look.h"

namespace app {

Editor::Editor(Document& document, QWidget* parent) : QWidget(parent), document_(document) {}

Editor::~Editor() {
  // A field that goes while it has the focus says a last word, when this is no editor any more.
  for (QObject* child : findChildren<QObject*>()) child->disconnect(this);
}

NumberField* Editor::bindNumber(const NumberSpec& spec, const QString& name, const QString& step,
    Access access, const QString& toolTip) {
  auto* field = new NumberField(spec, name, this);
  const QString range =
      spec.accepted.isEmpty()
          ? tr("%1 to %2").arg(look::number(spec.range.low), look::number(spec.range.high))
          : spec.accepted;
  field->setToolTip(
      toolTip + tr("\nAccepted: %1%2. Type, drag, or use the arrow keys.")
                    .arg(range, spec.unit.isEmpty() ? QString() : QStringLiteral(" ") + spec.unit));
  field->setAccessibleName(step);
  connect(field, &NumberField::edited, this, [this, field, step, access](double value, bool) {
    const bool taken = apply(
        step, [&](acre::Recipe& r) { access.set(r, value); }, field->objectName());
    if (!taken) refreshNumbers();
  });
  connect(field, &NumberField::gestureEnded, this, [this] { document_.endGesture(); });
  connect(field, &NumberField::refused, this, &Editor::refused);
  connect(field, &NumberField::left, this, &Editor::leaveRequested);
  bound_.push_back({field, std::move(access)});
  return field;
}

auto Editor::numberBy(const acre::About& about, const QString& label) -> Number {
  const double times = shownTimes(about);
  const auto text = [](std::string_view words) {
    return QString::fromUtf8(words.data(), static_cast<qsizetype>(words.size()));
  };
  Number number;
  number.key = text(about.key);
  number.title = text(about.title);
  number.label = label;
  if (label.isEmpty()) number.label = number.title.left(1).toLower() + number.title.mid(1);
  number.tip = text(about.what);
  number.spec.range = {about.range.low * times, about.range.high * times};
  if (!std::isfinite(about.range.high)) number.spec.accepted = text(about.accepted);
  number.spec.whole = about.whole;
  // Without a step: as the range asks. What spans many sizes is stepped by factors.
  number.spec.logarithmic = about.step == 0 && about.range.low > 0;
  number.spec.step = about.step == 0 ? 1 : about.step * times;
  number.spec.bare = times == 1;
  if (times != 1)
    number.spec.unit = tr("%");
  else if (about.unit == "cells")
    number.spec.unit = tr("cells");
  else if (about.unit == "blocks")
    number.spec.unit = tr("blocks");
  return number;
}

NumberField* Editor::bindNumber(const QString& name, const QString& of, const Number& number) {
  auto* field = bindNumber(number.spec, name + QLatin1Char('.') + number.key,
      tr("%1 of %2").arg(number.title.isEmpty() ? number.label : number.title, of), number.access,
      number.tip);
  field->setFixedWidth(kNumberWidth);
  return field;
}

void Editor::addNumbers(QVBoxLayout* column, const QString& key, const QString& of,
    const std::vector<Number>& numbers, int across) {
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(4);
  for (size_t n = 0; n < numbers.size(); ++n) {
    const Number& number = numbers[n];
    const int row = static_cast<int>(n) / across, at = static_cast<int>(n) % across * 2;
    auto* label = caption(number.label);
    label->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    grid->addWidget(label, row, at);
    NumberField* field = bindNumber(key, of, number);
    label->setToolTip(field->toolTip());
    grid->addWidget(field, row, at + 1);
  }
  for (int c = 0; c < across; ++c) grid->setColumnStretch(2 * c, 1);
  column->addLayout(grid);
}

QVBoxLayout* Editor::newBody(QVBoxLayout* page, int stretch) {
  clearBindings();
  if (body_) {
    page->removeWidget(body_);
    body_->hide();
    body_->deleteLater();  // The change may come from one of its own controls.
  }
  body_ = new QWidget;
  auto* column = new QVBoxLayout(body_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  page->addWidget(body_, stretch);
  return column;
}

void Editor::addSwitch(
    QVBoxLayout* column, const QString& words, const QString& name, std::function<void()> on) {
  column->addWidget(new QLabel(words));
  auto* button = new QPushButton(tr("Switch on"));
  button->setObjectName(name);
  connect(button, &QPushButton::clicked, button, std::move(on));
  auto* row = new QHBoxLayout;
  row->addWidget(button);
  row->addStretch(1);
  column->addLayout(row);
}

void Editor::refreshNumbers() {
  for (const Bound& bound : bound_) {
    const auto value = bound.access.get(document_.recipe());
    if (!value) continue;
    bound.field->setReference(bound.access.get(document_.saved()).value_or(*value));
    bound.field->setValue(*value);
  }
}

bool Editor::apply(
    const QString& step, const std::function<void(acre::Recipe&)>& edit, const QString& mergeKey) {
  acre::Recipe next = document_.recipe();
  edit(next);
  return document_.change(step, next, mergeKey);
}

Choice* Editor::materialChoice(const QString& name, const QString& step, const std::string& current,
    const std::vector<std::pair<QString, std::string>>& first,
    std::function<void(acre::Recipe&, const std::string&)> set) {
  auto* choice = new Choice;
  choice->setObjectName(name);
  choice->setAccessibleName(step);
  choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  choice->setMinimumContentsLength(7);
  for (const auto& [text, id] : first) choice->addItem(text, QString::fromStdString(id));
  for (const acre::Material& m : document_.recipe().materials)
    choice->addItem(QString::fromStdString(m.name), QString::fromStdString(m.id));
  choice->setCurrentIndex(choice->findData(QString::fromStdString(current)));
  connect(choice, &Choice::activated, this, [this, choice, step, set = std::move(set)] {
    const std::string id = choice->currentData().toString().toStdString();
    apply(step, [&](acre::Recipe& r) { set(r, id); });
  });
  return choice;
}

QToolButton* Editor::deleteButton(
    const QString& name, const QString& tip, std::function<void(acre::Recipe&)> edit) {
  auto* button = new QToolButton;
  button->setText(QStringLiteral("×"));
  button->setProperty("role", "small");
  button->setObjectName(name);
  button->setToolTip(tip);
  button->setAccessibleName(tip);
  connect(button, &QToolButton::clicked, this,
      [this, tip, edit = std::move(edit)] { apply(tip, edit); });
  return button;
}

QLabel* Editor::caption(const QString& text) {
  auto* label = new QLabel(text);
  label->setFont(look::font(look::Type::Caption));
  label->setProperty("role", "caption");
  return label;
}

QLabel* Editor::heading(const QString& text) {
  auto* label = new QLabel(text);
  label->setFont(look::capitals());
  return label;
}

QWidget* Editor::ruleLine() {
  auto* line = new QFrame;
  line->setFixedHeight(1);
  line->setProperty("role", "rule");
  return line;
}

}  // namespace app
