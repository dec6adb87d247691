#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>

#include "audit/proof.h"
#include "cli/common.h"
#include "reference/prover.h"
#include "world/plan.h"

extern char** environ;  // NOLINT: named by POSIX.

namespace acre::cli {
namespace {

struct ProveOptions {
  RecipeOptions recipe;
  std::vector<std::string> areas;
  int64_t side = 128;
  bool fingerprint = false;
};

/// What the command prints when it is called once more, in a process of its own.
Result<std::string> askAnotherProcess(const Streams& streams) {
  const auto failed = [] {
    return Error{Error::Code::Io, "a second process could not be run", "prove", ""};
  };
  std::vector<std::string> words{streams.self};
  for (const std::string& arg : streams.args)
    if (arg != "--json") words.push_back(arg);
  words.push_back("--fingerprint");
  std::vector<char*> argv;
  for (std::string& word : words) argv.push_back(word.data());
  argv.push_back(nullptr);
  std::array<int, 2> ends{};
  if (pipe2(ends.data(), O_CLOEXEC) != 0) return failed();
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, ends[1], STDOUT_FILENO);
  pid_t child = 0;
  const int fault =
      posix_spawn(&child, streams.self.c_str(), &actions, nullptr, argv.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  close(ends[1]);
  std::string text;
  std::array<char, 256> buffer{};
  for (ssize_t got = 0; fault == 0 && (got = read(ends[0], buffer.data(), buffer.size())) > 0;)
    text.append(buffer.data(), static_cast<size_t>(got));
  close(ends[0]);
  int status = 0;
  if (fault != 0 || waitpid(child, &status, 0) != child || status != 0) return failed();
  return text;
}

std::string fingerprintsOf(const Proof& proof) {
  std::string text = proof.world.hex() + "\n";
  for (const Digest& area : proof.areaHashes) text += area.hex() + "\n";
  return text;
}

Result<int> prove(const ProveOptions& options, Streams& streams) {
  if (options.side < 1 || options.side > ProofOptions::kMostSide)
    return Error{Error::Code::InvalidInput, fmt::format("{} cells", options.side), "--side",
        fmt::format("1 to {}", ProofOptions::kMostSide)};
  ProofOptions how;
  how.side = options.side;
  for (const std::string& text : options.areas) {
    const auto area = parseArea(text, "--area");
    if (!area) return area.error();
    how.areas.push_back(*area);
  }
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const Recipe& recipe = planOf(*loaded->world).recipe();
  if (options.fingerprint) {
    const auto found = fingerprints(recipe, how);
    if (!found) return found.error();
    streams.out << fingerprintsOf(*found);
    return 0;
  }
  reference::testify(recipe, how);
  if (options.recipe.threads) how.threads = {*options.recipe.threads};
  if (streams.progress)
    how.progress = [&](double share, const std::string& what) {
      streams.err << fmt::format("\r{:3.0f} % {:<56}", share * 100, what)
                  << (share >= 1 ? "\r" + std::string(64, ' ') + "\r" : "") << std::flush;
    };
  auto proof = acre::prove(recipe, how);
  if (!proof) return proof.error();
  if (!streams.self.empty()) {
    const auto other = askAnotherProcess(streams);
    if (!other) return other.error();
    int64_t cells = 0;
    for (const Rect& area : proof->areas) cells += area.width * area.length;
    proof->steps.push_back({"process", "A second process finds the same",
        *other == fingerprintsOf(*proof), cells, std::nullopt});
  }
  streams.out << (options.recipe.json ? proofJson(*proof) : proofText(*proof));
  return proof->holds() ? 0 : 1;
}

}  // namespace

void addProve(CLI::App& app, Action& action) {
  const auto options = std::make_shared<ProveOptions>();
  ProveOptions& o = *options;
  o.recipe.addTo(app);
  app.add_option("--area", o.areas,
         "X,Z,WxH: what to look at; may be repeated; default: three squares, at the "
         "origin, at negative coordinates and two thousand million cells out")
      ->expected(1)
      ->allow_extra_args(false)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_option("--side", o.side, "Side of these squares in cells; default 128");
  app.add_flag("--fingerprint", o.fingerprint,
      "Print the fingerprints of world and areas alone, without the proof");
  app.callback([options, &action] {
    action = [options](Streams& streams) { return prove(*options, streams); };
  });
}

}  // namespace acre::cli
