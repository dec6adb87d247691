/// The calls of the command that give what the window shows.
#pragma once

#include <QString>

#include "app/document/document.h"
#include "output/map_writer.h"

namespace app {

/// "acre VERB SOURCE REST", with the seed where it is not the saved one.
QString commandFor(const Document& document, const QString& verb, const QString& rest = {});

/// "acre map …", for a picture of colours.
QString mapCommandFor(const Document& document, const acre::MapRequest& request);

/// Whether the recipe differs from its file in more than the seed, so that a command would show
/// something else.
bool commandLacksChanges(const Document& document);

}  // namespace app
