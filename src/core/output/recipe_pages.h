/// What is said of the members of a recipe, for people and for programs.
#pragma once

#include <string>
#include <string_view>

#include "base/result.h"

namespace acre {

/// The JSON schema of recipes (draft 7), indented.
std::string recipeSchema();

/// A page with its tables made anew: each stands between lines "<!-- members of NAME -->" and
/// "<!-- end -->", NAME as in the schema's definitions. Refuses a page whose marks do not match, or
/// that names what is not there.
Result<std::string> withTables(std::string_view page);

}  // namespace acre
