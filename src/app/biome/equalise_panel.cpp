#include "app/biome/equalise_panel.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/look/look.h"
#include "audit/chart_sample.h"
#include "climate/biomes.h"
#include "recipe/validate.h"

namespace app {
namespace {

/// The scale of a field as the chart has it, or as the climate tells it.
acre::AxisScale scaleOfField(const acre::Recipe& recipe, const std::string& field) {
  if (const acre::ClimateAxis* axis = acre::climateAxisOf(recipe, field)) return *axis;
  return acre::scaleOf(recipe, recipe.biomes.x.field == field ? recipe.biomes.x : recipe.biomes.y);
}

acre::Recipe equalised(const acre::Recipe& recipe, const std::string& field) {
  acre::Recipe next = recipe;
  if (acre::FieldRecipe* f = acre::fieldOf(next, field))
    f->layers.push_back(acre::equaliseLayer(scaleOfField(recipe, field), *f));
  return next;
}

}  // namespace

EqualisePanel::EqualisePanel(Document& document, Statistics& statistics, QWidget* parent)
    : QWidget(parent), document_(document), statistics_(statistics) {
  setObjectName(QStringLiteral("equalise"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  text_ = new QLabel;
  text_->setObjectName(QStringLiteral("equalise.shares"));
  text_->setWordWrap(true);
  text_->setTextFormat(Qt::RichText);
  column->addWidget(text_);
  auto* row = new QHBoxLayout;
  take_ = new QPushButton(tr("Equalise"));
  take_->setObjectName(QStringLiteral("equalise.take"));
  connect(take_, &QPushButton::clicked, this, &EqualisePanel::take);
  auto* leave = new QPushButton(tr("Leave it"));
  leave->setObjectName(QStringLiteral("equalise.leave"));
  connect(leave, &QPushButton::clicked, this, &QWidget::hide);
  row->addWidget(take_);
  row->addWidget(leave);
  row->addStretch(1);
  column->addLayout(row);
  hide();
}

void EqualisePanel::offer(const std::string& fieldId) {
  field_ = fieldId;
  const acre::Recipe& recipe = document_.recipe();
  const acre::FieldRecipe* field = acre::fieldOf(recipe, fieldId);
  if (!field) return;
  const QString name = QString::fromStdString(field->name).toHtmlEscaped();
  take_->setVisible(false);
  show();
  if (!field->layers.empty() &&
      std::holds_alternative<acre::EqualiseSource>(field->layers.back().source) &&
      field->layers.back().on)
    return text_->setText(tr("%1 is equalised already: its last layer is.").arg(name));
  const acre::Status valid = acre::validate(equalised(recipe, fieldId));
  if (!valid)
    return text_->setText(tr("%1 cannot be equalised: %2. Accepted: %3.")
                              .arg(name, QString::fromStdString(valid.error().what),
                                  QString::fromStdString(valid.error().accepted)));
  const auto figures = statistics_.chart();
  const acre::BiomeStage* stage = planOf(*document_.world()).biomes();
  const acre::Biomes& biomes = recipe.biomes;
  QString rows;
  if (figures && stage && document_.current() &&
      (biomes.x.field == fieldId || biomes.y.field == fieldId)) {
    const auto count = static_cast<int>(biomes.list.size());
    const acre::Kernels& kernels = planOf(*document_.world()).kernels();
    const auto before = acre::chartCounts(stage->chart(), *figures->sample, kernels, count);
    const acre::ChartSample after =
        acre::equalised(*figures->sample, biomes.x.field == fieldId, scaleOfField(recipe, fieldId));
    const auto then = acre::chartCounts(stage->chart(), after, kernels, count);
    const auto all = static_cast<double>(figures->sample->size());
    for (size_t i = 0; i <= biomes.list.size(); ++i) {
      const size_t at = (i + 1) % (biomes.list.size() + 1);  // Those without a biome come last.
      if (at == 0 && before[0] == 0 && then[0] == 0) continue;
      const QString of = at == 0 ? tr("no rule") : QString::fromStdString(biomes.list[at - 1].name);
      const auto share = [&](uint64_t n) { return look::percent(static_cast<double>(n) / all); };
      rows += QStringLiteral(
          "<tr><td>%1&nbsp;&nbsp;</td><td align=right>%2</td><td>&nbsp;→&nbsp;"
          "</td><td align=right>%3</td></tr>")
                  .arg(of.toHtmlEscaped(), share(before[at]), share(then[at]));
    }
  }
  text_->setText(tr("Equalised, every part of %1 is as common as any other; shares of the world, "
                    "before and after:")
                     .arg(name) +
                 QStringLiteral("<table>%1</table>").arg(rows));
  take_->setVisible(true);
}

void EqualisePanel::take() {
  const acre::FieldRecipe* field = acre::fieldOf(document_.recipe(), field_);
  if (!field) return hide();
  document_.change(tr("Equalise %1").arg(QString::fromStdString(field->name)),
      equalised(document_.recipe(), field_));
  document_.endGesture();
  hide();
}

}  // namespace app

#include "moc_equalise_panel.cpp"
