// Streaming: chunks a second beside the textbook's, what scheduling costs, what a second worker is
// worth, and long traverses.
//   stream_bench [--minutes=M] [Google Benchmark's options]   M: length of each traverse, default 1
#include <sys/resource.h>

#include <atomic>
#include <condition_variable>
#include <cstdlib>
#include <cstring>
#include <mutex>
#include <string>
#include <thread>

#include "stream/traverse.h"
#include "textbook_land.h"
#include "world/world.h"

namespace bench {
namespace {

constexpr int64_t kReach = 800;  // Some 2,100 chunks of 32.

std::unique_ptr<Engine> engineOf(const char* simd) {
  EngineOptions options;
  options.simd = simd;
  return std::move(Engine::create(options)).value();
}

/// Streams all chunks around the origin and returns when the owner has them.
void streamAll(const std::shared_ptr<const World>& world, Executor& executor, MemoryBudget& budget,
    size_t chunks, std::vector<ChunkHandle>& held) {
  StreamSettings settings;
  settings.viewDistance = kReach;
  std::mutex mutex;
  std::condition_variable wake;
  bool rung = false;
  Stream stream(world, settings, executor, budget);
  stream.onReady([&] {
    {
      const std::lock_guard lock(mutex);
      rung = true;
    }
    wake.notify_one();
  });
  stream.setView({0, 0});
  while (held.size() < chunks) {
    {
      std::unique_lock lock(mutex);
      wake.wait(lock, [&] { return rung; });
      rung = false;
    }
    // A game looks in once a frame; this owner once a millisecond.
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
    for (ChunkHandle& chunk : stream.take(10'000).show) held.push_back(std::move(chunk));
  }
}

/// Arithmetic that knows no memory: what two threads are worth on this machine just now.
double spin(unsigned threads) {
  return secondsOf([&] {
    std::vector<std::jthread> workers;
    for (unsigned t = 0; t < threads; ++t)
      workers.emplace_back([] {
        uint64_t x = 1;
        for (int i = 0; i < 20'000'000; ++i) x = mix64(x + 1);
        benchmark::DoNotOptimize(x);
      });
  });
}

double median(std::vector<double> v) {
  std::sort(v.begin(), v.end());
  return v[v.size() / 2];
}

void printChunks() {
  const Kernels& avx2 = tableOr("avx2");
  const auto engine = engineOf(avx2.name);
  const Recipe recipe = loadRecipe("saltfen-reach").value();
  const auto world = engine->compile(recipe).value();
  TextbookLand book(recipe);
  book.listSlices();
  const auto list = neededChunks(world->layout(), world->bounds(), {0, 0}, kReach);
  const auto count = static_cast<double>(list.size());
  constexpr int kSide = 32;
  std::vector<float> heights(kSide * kSide);
  std::vector<uint16_t> things(heights.size());
  const Pair chunks = inTurn(
      7,
      [&] {
        for (const ChunkPos pos : list)
          benchmark::DoNotOptimize((*world->chunk(pos))->heights.data());
      },
      [&] {
        for (size_t k = 0; k < list.size(); k += 16) {  // Its cost is linear.
          const Rect rect = world->layout().rectOf(list[k]);
          for (int z = 0; z < kSide; ++z)
            for (int x = 0; x < kSide; ++x) {
              const int cx = static_cast<int>(rect.x) + x, cz = static_cast<int>(rect.z) + z;
              const float h = book.height(cx, cz);
              const auto at = static_cast<size_t>(z * kSide + x);
              heights[at] = h;
              things[at] = static_cast<uint16_t>(
                  book.biome(book.temperature(cx, cz, h), book.moisture(cx, cz), h));
            }
          benchmark::ClobberMemory();
        }
      });
  const double ours = count / chunks.ours, textbook = count / 16 / chunks.textbook;
  std::printf(
      "\nChunks of 32 x 32 of saltfen-reach, all stages, one thread, table %s\n", avx2.name);
  std::printf("%-44s %8.0f a second, textbook %.0f: %.1fx  (about 8,000 at 3 GHz)\n",
      "made one after the other", ours, textbook, ours / textbook);
  StageTimes times;
  for (const ChunkPos pos : list) benchmark::DoNotOptimize(world->chunk(pos, {}, &times).ok());
  std::printf("%-44s heights %.1f, climate and biomes %.1f, strata %.1f, packing %.1f us\n",
      "  of each", times[StageId::Heights] / count * 1e3, times[StageId::Biomes] / count * 1e3,
      times[StageId::Strata] / count * 1e3, times.packing / count * 1e3);

  // The same list by a stream of one worker, in turn with a plain loop that keeps its chunks.
  Executor one(1), two(2);
  std::vector<double> costs, gains, spins;
  MemoryBudget budget(uint64_t{4} << 30);
  std::vector<ChunkHandle> kept;
  for (int round = 0; round < 15; ++round) {
    const double plain = secondsOf([&] {
      std::jthread([&] {
        for (const ChunkPos pos : list) kept.push_back(world->chunk(pos).value());
      }).join();
      kept.clear();
    });
    const double streamed = secondsOf([&] { streamAll(world, one, budget, list.size(), kept); });
    kept.clear();
    const double shared = secondsOf([&] { streamAll(world, two, budget, list.size(), kept); });
    kept.clear();
    costs.push_back(streamed / plain);
    gains.push_back(streamed / shared);
    spins.push_back(2 * spin(1) / spin(2));
  }
  std::printf("%-44s %8.3f of a plain loop's time (at most 1.03)\n",
      "through a stream with one worker", median(costs));
  std::printf("%-44s %8.2f of one (1.8); arithmetic alone: %.2f\n", "two workers", median(gains),
      median(spins));
}

void printTraverse(const char* demo, RouteKind kind, double minutes, double speed, int64_t view) {
  const auto engine = engineOf("");
  const auto world = engine->compile(loadRecipe(demo).value()).value();
  TraverseSettings s;
  s.route.kind = kind;
  s.speed = speed;
  s.seconds = minutes * 60;
  s.threads = std::max(1u, std::thread::hardware_concurrency());
  s.stream = StreamSettings::moving(view * world->layout().size(), world->layout().size(), speed);
  const TraverseReport r = runTraverse(world, s);
  uint64_t early = 0, late = 0;
  for (size_t i = 0; i < r.frames.size(); ++i) {
    uint64_t& half = i < r.frames.size() / 2 ? early : late;
    half = std::max(half, r.frames[i].resident);
  }
  const auto mib = [](uint64_t bytes) { return static_cast<double>(bytes) / (1 << 20); };
  std::printf("%s of %s, %.0f s at %.0f cells a second, %ld chunks of view\n", routeName(kind),
      demo, s.seconds, speed, static_cast<long>(view));
  std::printf("  %s\n", verdictOf(r).c_str());
  std::printf(
      "  missing chunk-frames %lu of %lu needs; waits 95 %% %.1f, 99 %% %.1f, worst %.1f ms\n",
      static_cast<unsigned long>(r.missing), static_cast<unsigned long>(r.waits.count),
      r.waits.percent95, r.waits.percent99, r.waits.worst);
  std::printf("  memory above the start: first half %.1f MiB, second %.1f; reserved %.1f of %.0f\n",
      mib(early), mib(late), mib(r.peakBytes), mib(s.memoryLimit));
  std::printf("  built %lu, asked %lu, dropped %lu; owner's worst frame %.1f ms\n",
      static_cast<unsigned long>(r.stream.built), static_cast<unsigned long>(r.stream.asked),
      static_cast<unsigned long>(r.stream.dropped), r.consumerWorst);
}

/// Processor time that a stream takes which has nothing to do.
void printIdle() {
  const auto engine = engineOf("");
  const auto world = engine->compile(loadRecipe("saltfen-reach").value()).value();
  Executor executor(2);
  MemoryBudget budget(1u << 30);
  Stream stream(world, StreamSettings::moving(384, 32), executor, budget);
  stream.setView({0, 0});
  while (stream.stats().held < stream.stats().expected) {
    stream.take(1000);
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  const auto used = [] {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return static_cast<double>(usage.ru_utime.tv_sec + usage.ru_stime.tv_sec) +
           static_cast<double>(usage.ru_utime.tv_usec + usage.ru_stime.tv_usec) * 1e-6;
  };
  const double before = used();
  std::this_thread::sleep_for(std::chrono::seconds(2));
  std::printf("%-44s %8.2f ms of processor time in two seconds\n", "a stream at rest",
      (used() - before) * 1e3);
}

void chunkBenchmark(benchmark::State& state) {
  const auto engine = engineOf("");
  const auto world = engine->compile(loadRecipe("saltfen-reach").value()).value();
  int64_t at = 0;
  for (auto _ : state) benchmark::DoNotOptimize(world->chunk({at++ % 1000, at / 1000}).ok());
  state.SetItemsProcessed(state.iterations());
}
BENCHMARK(chunkBenchmark)->Name("BM_Chunk/saltfen-reach")->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace bench

int main(int argc, char** argv) {
  double minutes = 1;
  for (int i = 1; i < argc; ++i)
    if (std::strncmp(argv[i], "--minutes=", 10) == 0) {
      minutes = std::atof(argv[i] + 10);
      std::copy(argv + i + 1, argv + argc, argv + i);
      --argc;
      break;
    }
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 1;
  benchmark::RunSpecifiedBenchmarks();
  bench::printChunks();
  bench::printIdle();
  if (minutes > 0) {
    for (const acre::RouteKind kind : {acre::RouteKind::Straight, acre::RouteKind::Teleports})
      bench::printTraverse("saltfen-reach", kind, minutes, 1500, 12);
    bench::printTraverse("swallet-edge", acre::RouteKind::Straight, minutes, 60, 8);
  }
  return 0;
}
