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
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(4);
  const auto number = [&](const char* key, const QString& step, double acre::AxisScale::*member,
                          const QString& tip) {
    auto* field = bindNumber({acre::limits::altitude, 0.1, false, false, {}},
        QLatin1String("climate.") + QLatin1String(key), step,
        {[this, member](const acre::Recipe& r) -> std::optional<double> {
           return axisOf(const_cast<acre::Recipe&>(r)).*member;
         },
            [this, member](acre::Recipe& r, double v) { axisOf(r).*member = v; }},
        tip);
    field->setFixedWidth(76);
    return field;
  };
  grid->addWidget(caption(tr("chart from")), 0, 0);
  grid->addWidget(number("low", tr("Beginning of the axis"), &acre::AxisScale::low,
                      tr("The value that the chart begins with.")),
      0, 1);
  grid->addWidget(caption(tr("to")), 0, 2);
  grid->addWidget(number("high", tr("End of the axis"), &acre::AxisScale::high,
                      tr("The value that the chart ends with.")),
      0, 3);
  grid->addWidget(caption(tr("told as")), 1, 0);
  grid->addWidget(number("unitLow", tr("What the beginning is called"), &acre::AxisScale::unitLow,
                      tr("What the chart's beginning stands for, in the unit.")),
      1, 1);
  grid->addWidget(caption(tr("to")), 1, 2);
  grid->addWidget(number("unitHigh", tr("What the end is called"), &acre::AxisScale::unitHigh,
                      tr("What the chart's end stands for, in the unit.")),
      1, 3);
  unit_ = new QLineEdit;
  unit_->setObjectName(QStringLiteral("climate.unit"));
  unit_->setAccessibleName(tr("Unit"));
  unit_->setPlaceholderText(tr("no unit"));
  unit_->setMaxLength(12);
  unit_->setFixedWidth(70);
  unit_->setToolTip(tr("A unit such as °C or mm; empty: values are told as they are."));
  connect(unit_, &QLineEdit::editingFinished, this, [this] {
    const std::string text = unit_->text().trimmed().toStdString();
    if (text != axis().unit)
      apply(tr("Unit of %1").arg(QString::fromStdString(axis().field.name)),
          [&](acre::Recipe& r) { axisOf(r).unit = text; });
  });
  grid->addWidget(unit_, 1, 4);
  grid->setColumnStretch(5, 1);
  unitsColumn->addLayout(grid);
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
  if (!unit_->hasFocus()) unit_->setText(QString::fromStdString(axis().unit));
  refreshNumbers();
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
