#include "app/biome/climate_editor.h"

#include <QGridLayout>
#include <cmath>

#include "app/look/look.h"

namespace app {

ClimateEditor::ClimateEditor(Document& document, Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  off_ = new QWidget;
  auto* offColumn = new QVBoxLayout(off_);
  offColumn->setContentsMargins(16, 12, 16, 12);
  auto* why = new QLabel(tr("The climate is off: there is no temperature and no moisture."));
  why->setWordWrap(true);
  auto* on = new QPushButton(tr("Switch on"));
  on->setObjectName(QStringLiteral("climate.on"));
  connect(on, &QPushButton::clicked, this, &ClimateEditor::switchRequested);
  offColumn->addWidget(why);
  offColumn->addWidget(on, 0, Qt::AlignLeft);
  offColumn->addStretch(1);
  column->addWidget(off_, 1);

  on_ = new QWidget;
  auto* body = new QVBoxLayout(on_);
  body->setContentsMargins(0, 0, 0, 0);
  body->setSpacing(0);
  fields_ = new HeightsEditor(document, statistics, HeightsEditor::Scope::Climate);
  fields_->setObjectName(QStringLiteral("climate.fields"));
  auto* units = new QWidget;
  auto* unitsColumn = new QVBoxLayout(units);
  unitsColumn->setContentsMargins(16, 10, 16, 0);
  unitsColumn->setSpacing(6);
  const auto made = form<acre::ClimateAxis>(
      axis(), [this](acre::Recipe& r) { return &axisOf(r); }, QStringLiteral("climate"),
      tr("the axis"));
  const auto number = [&](Row& row, const QString& words, const char* key, const QString& step,
                          double acre::ClimateAxis::*member) {
    NumberField* field = made.number(member, words);
    field->setObjectName(made.named(key));
    field->setAccessibleName(step);
    row.words(words).add(field, 76);
  };
  Row chart(unitsColumn, 6);
  number(chart, tr("chart from"), "low", tr("Beginning of the axis"), &acre::ClimateAxis::low);
  number(chart, tr("to"), "high", tr("End of the axis"), &acre::ClimateAxis::high);
  chart.rest();
  Row told(unitsColumn, 6);
  number(told, tr("told as"), "unitLow", tr("What the beginning is called"),
      &acre::ClimateAxis::unitLow);
  number(told, tr("to"), "unitHigh", tr("What the end is called"), &acre::ClimateAxis::unitHigh);
  auto* unit = bindText(
      made.named("unit"), tr("Unit of an axis"),
      tr("A unit such as °C or mm; empty: values are told as they are."),
      [this](const acre::Recipe& r) {
        return std::optional(axisOf(const_cast<acre::Recipe&>(r)).unit);
      },
      [this](acre::Recipe& r, const std::string& text) { axisOf(r).unit = text; });
  unit->setPlaceholderText(tr("no unit"));
  unit->setMaxLength(12);
  unit->setFixedWidth(70);
  told.add(unit).rest();
  auto* line = new QHBoxLayout;
  correlation_ = new QLabel;
  correlation_->setObjectName(QStringLiteral("climate.correlation"));
  correlation_->setWordWrap(true);
  correlation_->setToolTip(
      tr("Pearson's r of the two fields over 65,536 cells: 0 independent, 1 or −1 on a line."));
  line->addWidget(correlation_, 1);
  auto* offer = new QPushButton(tr("Equalise…"));
  offer->setObjectName(QStringLiteral("climate.equalise"));
  offer->setToolTip(tr("Shows what evening out this field would do to every biome's share."));
  connect(offer, &QPushButton::clicked, this, [this] { equalise_->offer(axis().field.id); });
  line->addWidget(offer);
  unitsColumn->addLayout(line);
  equalise_ = new EqualisePanel(document, statistics);
  connect(equalise_, &EqualisePanel::refused, this, &Editor::refused);
  unitsColumn->addWidget(equalise_);
  unitsColumn->addWidget(ruleLine());
  body->addWidget(units);
  body->addWidget(fields_, 1);
  column->addWidget(on_, 1);
  connect(fields_, &Editor::refused, this, &Editor::refused);
  connect(fields_, &Editor::leaveRequested, this, &Editor::leaveRequested);
  connect(fields_, &HeightsEditor::fieldChanged, this, [this] {
    equalise_->hide();
    refresh();
  });
  connect(&statistics_, &Statistics::changed, this, &ClimateEditor::refreshFigures);
  refresh();
}

acre::ClimateAxis& ClimateEditor::axisOf(acre::Recipe& recipe) const {
  return fields_ && fields_->field() == acre::kMoistureId ? recipe.climate.moisture
                                                          : recipe.climate.temperature;
}
const acre::ClimateAxis& ClimateEditor::axis() const {
  return axisOf(const_cast<acre::Recipe&>(document_.recipe()));
}

void ClimateEditor::refresh() {
  const bool on = document_.recipe().climate.on;
  off_->setVisible(!on);
  on_->setVisible(on);
  if (!on) return;
  refreshControls();
  refreshFigures();
  fields_->refresh();
}

void ClimateEditor::refreshFigures() {
  const auto figures = statistics_.chart();
  if (!figures || !document_.recipe().climate.on) return correlation_->clear();
  const double r = figures->sample->correlation;
  const double strength = std::abs(r);
  const QString words = strength > 0.7   ? tr("the world lies on a diagonal of the chart")
                        : strength > 0.3 ? tr("they go together in part")
                                         : tr("they go their own ways");
  correlation_->setText(tr("r %1: %2").arg(look::number(std::round(r * 100) / 100 + 0.0), words));
}

QString ClimateEditor::figures() const {
  return document_.recipe().climate.on ? fields_->figures() : QString();
}

void ClimateEditor::showPointer(const std::string& pointer) {
  fields_->showPointer(pointer);
}

}  // namespace app

#include "moc_climate_editor.cpp"
