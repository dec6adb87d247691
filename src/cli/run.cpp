#include "cli/run.h"

#include <cctype>

#include "base/version.h"
#include "cli/common.h"

namespace acre::cli {
namespace {

/// CLI11 explains faults over several lines; the command promises one.
std::string shortLine(const std::string& text) {
  std::string line = oneLine(text, 2 * Error::kMostShown);
  while (!line.empty() && line.back() == ' ') line.pop_back();
  return line;
}

/// What no number and no file name of any verb may be, whatever it is for.
void checkAll(CLI::App& verb) {
  const CLI::Validator finite(
      [](std::string& text) -> std::string {
        std::string lower;
        for (const char c : text)
          lower += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        const bool is =
            lower.find("nan") == std::string::npos && lower.find("inf") == std::string::npos;
        return is ? "" : "\"" + oneLine(text, 40) + "\" is no number; accepted: a finite number";
      },
      "", "finite");
  const CLI::Validator unsignedNumber(
      [](std::string& text) -> std::string {
        return text.find('-') == std::string::npos
                   ? ""
                   : oneLine(text, 40) + " is out of range; accepted: 0 and up";
      },
      "", "unsigned");
  const CLI::Validator named(
      [](std::string& text) -> std::string {
        return text.empty() ? "no name is given; accepted: the name of a file" : "";
      },
      "", "named");
  for (CLI::Option* option : verb.get_options()) {
    if (option->get_type_name().find("FLOAT") != std::string::npos) option->check(finite);
    if (option->get_type_name().find("UINT") != std::string::npos) option->check(unsignedNumber);
    if (option->check_lname("out") || option->check_lname("csv")) option->check(named);
  }
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
  for (const std::string& arg : args)
    if (!isUtf8(arg)) {
      err << "acre: " << invalidInput("\"" + arg + "\" is no text", "arguments", "UTF-8").text()
          << "\n";
      return 2;
    }
  std::string known;
  bool named = false;
  for (const Verb& verb : {Verb{"census", "Shares, ranges and histograms", addCensus},
           Verb{"check", "Known mistakes, found", addCheck},
           Verb{"chunk", "One chunk's cells", addChunk},
           Verb{"demos", "The built-in demo worlds", addDemos},
           Verb{"find", "Cave systems, rivers, lakes and open spaces, with their figures", addFind},
           Verb{"info", "What a recipe holds; counts and conversions", addInfo},
           Verb{"map", "A picture from above", addMap},
           Verb{"plumb", "Why a cell is what it is", addPlumb},
           Verb{"prove", "The proof that every way of asking gives the same", addProve},
           Verb{"schema", "What a recipe may hold, as a JSON schema", addSchema},
           Verb{"seeds", "Floors of a level under many seeds, and which fail", addSeeds},
           Verb{"section", "A vertical cut", addSection},
           Verb{"traverse", "A streaming run with its figures", addTraverse},
           Verb{"tiles", "A set of tiles on a sheet, checked and counted", addTiles},
           Verb{"tree", "A tree of a style, or sixteen of them", addTree},
           Verb{"view", "What one sees from a place, drawn without a display", addView}}) {
    CLI::App* added = app.add_subcommand(verb.name, verb.summary);
    verb.add(*added, action);
    checkAll(*added);
    named = named || (!args.empty() && args[0] == verb.name);
    known += (known.empty() ? "" : ", ") + std::string(verb.name);
  }
  if (args.empty() || (!named && !args[0].starts_with('-'))) {
    err << "acre: "
        << (args.empty() ? "no verb" : shortLine("there is no verb \"" + args[0] + "\""))
        << "; accepted: " << known << " (see acre --help)\n";
    return 2;
  }
  try {
    app.parse(std::vector<std::string>(args.rbegin(), args.rend()));
  } catch (const CLI::Success& e) {  // --help, --version
    app.exit(e, out, err);
    return 0;
  } catch (const CLI::ParseError& e) {
    err << "acre: " << shortLine(e.what()) << " (see acre " << (named ? args[0] + " " : "")
        << "--help)\n";
    return 2;
  }
  Streams streams{out, err, progress, self, args};
  const Result<int> result = action(streams);
  if (result) return *result;
  err << "acre: " << result.error().text() << "\n";
  return 2;
}

}  // namespace acre::cli
