#include "app/document/command_line.h"

namespace app {
namespace {

QString quoted(QString text) {
  return QLatin1Char('\'') + text.replace(QLatin1Char('\''), QStringLiteral("'\\''")) +
         QLatin1Char('\'');
}

}  // namespace

QString commandFor(const Document& document, const QString& verb, const QString& rest) {
  QString source = document.source();
  if (source.isEmpty()) source = QStringLiteral("FILE.acre");
  if (source.contains(QLatin1Char(' ')) || source.contains(QLatin1Char('\'')))
    source = quoted(source);
  QString line = QStringLiteral("acre %1 %2").arg(verb, source);
  const acre::Recipe& recipe = document.recipe();
  if (recipe.seed != document.saved().seed)
    line += QStringLiteral(" --seed ") + quoted(QString::fromStdString(recipe.seed));
  return rest.isEmpty() ? line : line + QLatin1Char(' ') + rest;
}

QString mapCommandFor(const Document& document, const acre::MapRequest& request) {
  const acre::SampleGrid& grid = request.grid;
  QString rest = QStringLiteral("--centre %1,%2 --size %3x%4 --step %5 --show %6")
                     .arg(grid.x + grid.width / 2 * grid.step)
                     .arg(grid.z + grid.length / 2 * grid.step)
                     .arg(grid.width)
                     .arg(grid.length)
                     .arg(grid.step)
                     .arg(QString::fromStdString(acre::nameOf(request.show)));
  if (request.show.borders) rest += QStringLiteral(" --borders");
  const acre::Style plain, &style = request.style;
  if (style.contours > 0) rest += QStringLiteral(" --contours %1").arg(style.contours);
  if (style.light != plain.light) rest += QStringLiteral(" --light %1").arg(style.light);
  if (style.relief != plain.relief) rest += QStringLiteral(" --relief %1").arg(style.relief);
  if (request.calm != 1) rest += QStringLiteral(" --calm %1").arg(request.calm);
  return commandFor(document, QStringLiteral("map"), rest + QStringLiteral(" --out map.png"));
}

bool commandLacksChanges(const Document& document) {
  acre::Recipe saved = document.saved();
  saved.seed = document.recipe().seed;
  return !(saved == document.recipe());
}

}  // namespace app
