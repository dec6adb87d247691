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

bool commandLacksChanges(const Document& document) {
  acre::Recipe saved = document.saved();
  saved.seed = document.recipe().seed;
  return !(saved == document.recipe());
}

}  // namespace app
