#include "cli/run.h"

#include "base/version.h"
#include "cli/common.h"

namespace acre::cli {
namespace {

/// CLI11 explains faults over several lines; the command promises one.
std::string oneLine(std::string text) {
  for (char& c : text)
    if (c == '\n' || c == '\r') c = ' ';
  while (!text.empty() && text.back() == ' ') text.pop_back();
  return text;
}

}  // namespace

int run(const std::vector<std::string>& args, std::ostream& out, std::ostream& err, bool progress,
        const std::string& self) {
  CLI::App app("Generates worlds from recipes: pictures, chunks and figures.", "acre");
  app.set_version_flag("--version", kVersionText);
  app.require_subcommand(1);
  Action action;
  struct Verb {
    const char* name;
    const char* summary;
    void (*add)(CLI::App&, Action&);
  };
  std::string known;
  bool named = false;
  for (const Verb& verb :
       {Verb{"census", "Shares, ranges and histograms", addCensus},
        Verb{"check", "Known mistakes, found", addCheck},
        Verb{"chunk", "One chunk's cells", addChunk},
        Verb{"demos", "The built-in demo worlds", addDemos},
        Verb{"find", "Cave systems and open spaces, with their figures", addFind},
        Verb{"info", "What a recipe holds; counts and conversions", addInfo},
        Verb{"map", "A picture from above", addMap},
        Verb{"plumb", "Why a cell is what it is", addPlumb},
        Verb{"prove", "The proof that every way of asking gives the same", addProve},
        Verb{"seeds", "Floors of a level under many seeds, and which fail", addSeeds},
        Verb{"section", "A vertical cut", addSection},
        Verb{"traverse", "A streaming run with its figures", addTraverse},
        Verb{"view", "What one sees from a place, drawn without a display", addView}}) {
    verb.add(*app.add_subcommand(verb.name, verb.summary), action);
    named = named || (!args.empty() && args[0] == verb.name);
    known += (known.empty() ? "" : ", ") + std::string(verb.name);
  }
  if (args.empty() || (!named && !args[0].starts_with('-'))) {
    err << "acre: " << (args.empty() ? "no verb" : oneLine("there is no verb \"" + args[0] + "\""))
        << "; accepted: " << known << " (see acre --help)\n";
    return 2;
  }
  try {
    app.parse(std::vector<std::string>(args.rbegin(), args.rend()));
  } catch (const CLI::Success& e) {  // --help, --version
    app.exit(e, out, err);
    return 0;
  } catch (const CLI::ParseError& e) {
    err << "acre: " << oneLine(e.what()) << " (see acre --help)\n";
    return 2;
  }
  Streams streams{out, err, progress, self, args};
  const Result<int> result = action(streams);
  if (result) return *result;
  err << "acre: " << result.error().text() << "\n";
  return 2;
}

}  // namespace acre::cli
