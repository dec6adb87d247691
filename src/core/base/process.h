/// What every program does before anything else.
#pragma once

#include "base/result.h"

namespace acre {

/// Files that outgrow a limit fail to be written, with a message, instead of ending the program.
/// Errors: a stack too small to work on (the threads get one of the same size).
Status prepareProcess();

}  // namespace acre
