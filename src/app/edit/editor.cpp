#include "app/edit/editor.h"

#include <QApplication>
#include <QClipboard>
#include <QColorDialog>
#include <QFrame>
#include <QGridLayout>
#include <QMenu>
#include <QSignalBlocker>
#include <algorithm>

#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "recipe/list_table.h"

namespace app {

Editor::Editor(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), previews_(new Previews(document, this)) {}

Editor::~Editor() {
  // A field that goes while it has the focus says a last word, when this is no editor any more.
  for (QObject* child : findChildren<QObject*>()) child->disconnect(this);
}

void Editor::setView(const MapGeometry& view) {
  previews_->setView(view);
  if (follower_) follower_->setView(view);
}

void Editor::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  if (follower_) follower_->refresh();
}

void Editor::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  if (follower_) follower_->hide();
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
    if (!taken) refreshControls();
  });
  connect(field, &NumberField::gestureEnded, this, [this] { document_.endGesture(); });
  connect(field, &NumberField::refused, this, &Editor::refused);
  connect(field, &NumberField::left, this, &Editor::leaveRequested);
  previews_->watch(field, spec, access);
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
  number.spec.feature = about.feature;
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
      tr("%1 of %2\n%3").arg(number.title.isEmpty() ? number.label : number.title, of, number.tip));
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
    previews_->lend(label, field);
    grid->addWidget(field, row, at + 1);
  }
  for (int c = 0; c < across; ++c) grid->setColumnStretch(2 * c, 1);
  column->addLayout(grid);
}

QVBoxLayout* Editor::newBody(QVBoxLayout* page, int stretch) {
  clearBindings();
  // What has the focus has it again, by its name, when its like is there.
  if (QWidget* focused = QApplication::focusWidget(); body_ && body_->isAncestorOf(focused))
    QMetaObject::invokeMethod(
        this,
        [this, name = focused->objectName()] {
          if (auto* again = body_->findChild<QWidget*>(name); again && !name.isEmpty())
            again->setFocus(Qt::OtherFocusReason);
        },
        Qt::QueuedConnection);
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
  auto* why = new QLabel(words);
  why->setWordWrap(true);
  column->addWidget(why);
  auto* button = new QPushButton(tr("Switch on"));
  button->setObjectName(name);
  connect(button, &QPushButton::clicked, button, std::move(on));
  auto* row = new QHBoxLayout;
  row->addWidget(button);
  row->addStretch(1);
  column->addLayout(row);
}

void Editor::refreshControls() {
  for (const Bound& bound : bound_) {
    const auto value = bound.access.get(document_.recipe());
    if (!value) continue;
    bound.field->setReference(bound.access.get(document_.saved()).value_or(*value));
    bound.field->setValue(*value);
  }
  for (const auto& follow : followers_) follow(document_.recipe());
}

bool Editor::apply(
    const QString& step, const std::function<void(acre::Recipe&)>& edit, const QString& mergeKey) {
  acre::Recipe next = document_.recipe();
  edit(next);
  return document_.change(step, next, mergeKey);
}

Tick* Editor::bindTick(const QString& name, const QString& words, const QString& step,
    const QString& tip, std::function<std::optional<bool>(const acre::Recipe&)> get,
    std::function<void(acre::Recipe&, bool)> set) {
  auto* tick = new Tick(words);
  tick->setObjectName(name);
  tick->setAccessibleName(words.isEmpty() ? step : words);
  tick->setToolTip(tip);
  connect(tick, &Tick::toggled, this, [this, step, set = std::move(set)](bool on) {
    const QString named = tr("%1 %2").arg(step, on ? tr("on") : tr("off"));
    if (!apply(named, [&](acre::Recipe& r) { set(r, on); })) refreshControls();
  });
  follow([tick, get = std::move(get)](const acre::Recipe& r) {
    const QSignalBlocker quiet(tick);
    if (const auto on = get(r)) tick->setChecked(*on);
  });
  followers_.back()(document_.recipe());
  return tick;
}

Choice* Editor::bindChoice(const QString& name, const QString& step, const QString& tip,
    const Offered& offered, std::function<std::optional<std::string>(const acre::Recipe&)> get,
    std::function<void(acre::Recipe&, const std::string&)> set) {
  auto* choice = new Choice;
  choice->setObjectName(name);
  choice->setAccessibleName(step);
  choice->setToolTip(tip);
  choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  choice->setMinimumContentsLength(7);
  for (const auto& [text, id] : offered) choice->addItem(text, QString::fromStdString(id));
  connect(choice, &Choice::activated, this, [this, choice, step, set = std::move(set)] {
    const std::string id = choice->currentData().toString().toStdString();
    if (!apply(step, [&](acre::Recipe& r) { set(r, id); })) refreshControls();
  });
  follow([choice, get = std::move(get)](const acre::Recipe& r) {
    if (const auto id = get(r))
      choice->setCurrentIndex(choice->findData(QString::fromStdString(*id)));
  });
  followers_.back()(document_.recipe());
  return choice;
}

QLineEdit* Editor::bindText(const QString& name, const QString& step, const QString& tip,
    std::function<std::optional<std::string>(const acre::Recipe&)> get,
    std::function<void(acre::Recipe&, const std::string&)> set,
    std::function<QString(const std::string&)> check) {
  auto* line = new QLineEdit;
  line->setObjectName(name);
  line->setAccessibleName(step);
  line->setToolTip(tip);
  const auto show = [line, get](const acre::Recipe& r) {
    const auto text = get(r);
    if (text && line->text() != QString::fromStdString(*text))
      line->setText(QString::fromStdString(*text));
  };
  connect(line, &QLineEdit::editingFinished, this,
      [this, line, step, get, show, set = std::move(set), check = std::move(check)] {
        const std::string text = line->text().trimmed().toStdString();
        const auto now = get(document_.recipe());
        if (!now || *now == text) return;
        const QString why = check ? check(text) : QString();
        if (!why.isEmpty()) emit refused(why);
        if (!why.isEmpty() || !apply(step, [&](acre::Recipe& r) { set(r, text); }))
          show(document_.recipe());
      });
  follow([line, show](const acre::Recipe& r) {
    if (!line->hasFocus()) show(r);
  });
  show(document_.recipe());
  return line;
}

TextBox* Editor::bindNote(const QString& name, const QString& step,
    std::function<std::optional<std::string>(const acre::Recipe&)> get,
    std::function<void(acre::Recipe&, const std::string&)> set) {
  auto* box = new TextBox;
  box->setObjectName(name);
  box->setAccessibleName(step);
  box->setToolTip(tr("What people should know about it; it changes no cell."));
  box->setPlaceholderText(tr("A note"));
  box->setTabChangesFocus(true);
  box->setFixedHeight(3 * QFontMetrics(box->font()).lineSpacing() + 14);
  const auto show = [box, get](const acre::Recipe& r) {
    const auto text = get(r);
    if (text && box->toPlainText().toStdString() != *text)
      box->setPlainText(QString::fromStdString(*text));
  };
  connect(box, &TextBox::left, this, [this, box, step, get, show, set = std::move(set)] {
    const std::string text = box->toPlainText().toStdString();
    const auto now = get(document_.recipe());
    if (!now || *now == text) return;
    if (!apply(step, [&](acre::Recipe& r) { set(r, text); })) show(document_.recipe());
  });
  follow([box, show](const acre::Recipe& r) {
    if (!box->hasFocus()) show(r);
  });
  show(document_.recipe());
  return box;
}

QToolButton* Editor::bindColour(const QString& name, const QString& step,
    std::function<const acre::Colour*(const acre::Recipe&)> get,
    std::function<void(acre::Recipe&, const acre::Colour&)> set) {
  auto* button = new QToolButton;
  button->setObjectName(name);
  button->setProperty("role", "small");
  button->setToolTip(tr("Colour on the map"));
  button->setAccessibleName(step);
  connect(button, &QToolButton::clicked, this, [this, step, get, set = std::move(set)] {
    const acre::Colour* now = get(document_.recipe());
    if (!now) return;
    auto* dialog = new QColorDialog(QColor(now->red, now->green, now->blue), this);
    dialog->setWindowTitle(step);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QColorDialog::colorSelected, this, [this, step, set](const QColor& c) {
      apply(step, [&](acre::Recipe& r) {
        set(r, {static_cast<uint8_t>(c.red()), static_cast<uint8_t>(c.green()),
                   static_cast<uint8_t>(c.blue())});
      });
    });
    dialog->open();
  });
  follow([button, get = std::move(get)](const acre::Recipe& r) {
    if (const acre::Colour* now = get(r)) button->setIcon(swatch(*now));
  });
  followers_.back()(document_.recipe());
  return button;
}

QPushButton* Editor::button(const QString& words, const QString& name, const QString& tip,
    std::function<void(acre::Recipe&)> edit, const QString& step) {
  auto* made = new QPushButton(words);
  made->setObjectName(name);
  made->setToolTip(tip);
  connect(made, &QPushButton::clicked, this,
      [this, said = step.isEmpty() ? words : step, edit = std::move(edit)] { apply(said, edit); });
  return made;
}

Choice* Editor::inked(Choice* choice) {
  follow([choice](const acre::Recipe& r) {
    for (int k = 0; k < choice->count(); ++k) {
      const std::string id = choice->itemData(k).toString().toStdString();
      const auto found = std::find_if(r.materials.begin(), r.materials.end(),
          [&](const acre::Material& m) { return m.id == id; });
      choice->setInk(k, found == r.materials.end() ? std::nullopt : std::optional(found->colour));
    }
  });
  return choice;
}

auto Editor::materials(Offered first) const -> Offered {
  for (const acre::Material& m : document_.recipe().materials)
    first.emplace_back(QString::fromStdString(m.name), m.id);
  return first;
}

void Editor::section(QVBoxLayout* column, const QString& title) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  column->addWidget(heading(title));
}

void Editor::listSection(QVBoxLayout* column, const QString& title, const std::string& pointer) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  Row(column).add(heading(title), 1).add(tableButton(title, pointer));
}

QToolButton* Editor::tableButton(const QString& title, const std::string& pointer) {
  auto* made = wordButton(tr("Table ▾"),
      QStringLiteral("table") +
          QString::fromStdString(pointer).replace(QLatin1Char('/'), QLatin1Char('.')),
      tr("Copies the list as text that spreadsheets take, and takes it from there"));
  made->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(made);
  menu->addAction(tr("Copy as a table"), this, [this, pointer] {
    const auto text = acre::listTable(document_.recipe(), pointer);
    if (!text) return emit refused(QString::fromStdString(text.error().text()));
    QGuiApplication::clipboard()->setText(QString::fromStdString(*text));
  });
  menu->addAction(tr("Paste a table"), this, [this, pointer, title] {
    const std::string text = QGuiApplication::clipboard()->text().toStdString();
    const auto next = acre::withListTable(document_.recipe(), pointer, text);
    if (!next) return emit refused(QString::fromStdString(next.error().text()));
    document_.change(tr("Paste: %1").arg(title), *next);
    document_.endGesture();
  });
  made->setMenu(menu);
  return made;
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

#include "moc_editor.cpp"
