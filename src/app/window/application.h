/// The whole of the application, from its arguments to its end.
#pragma once

namespace app {

/// What main() returns: 2 where it cannot begin, with a sentence to stderr that says why.
int runApplication(int argc, char** argv);

}  // namespace app
