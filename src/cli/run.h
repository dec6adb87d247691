/// The command `acre`, callable in-process.
#pragma once

#include <iosfwd>
#include <string>
#include <vector>

namespace acre::cli {

/// args: without the program's name. Returns 0 on success, 1 when the answer is "no", 2 on bad
/// input with one line on `err`. progress: whether `err` is a terminal that may show progress.
/// self: path of the command, for what needs a second process; empty: there is none.
int run(const std::vector<std::string>& args, std::ostream& out, std::ostream& err,
    bool progress = false, const std::string& self = {});

}  // namespace acre::cli
