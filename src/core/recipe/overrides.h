/// Changing single values of a recipe's JSON before it is read.
#pragma once

#include "recipe/json.h"
#include "recipe/json_reader.h"

namespace acre {

/// Puts a value at a JSON pointer, whose list members may be named by index or as "id:NAME".
/// Refuses places that do not exist.
Status applyOverride(Json& document, const Override& change);

}  // namespace acre
