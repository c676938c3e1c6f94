#include "tools/watch_server.hpp"

#include <fmt/format.h>
#include <httplib.h>

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

#include "lattice/judging/assess.hpp"
#include "lattice/show/watch_page.hpp"
#include "lattice/tensor/error.hpp"

namespace lattice::tools {
namespace {

using namespace std::chrono_literals;

/// How many can watch at once; for each there is a thread, which mostly sleeps. A few more answer
/// those that only ask for the page.
constexpr int most_watchers = 256;
constexpr int spare_threads = 32;

/// How often a watcher is told what is new, at most.
constexpr auto pause = 200ms;

/// Pictures are made of so many by so many answers.
constexpr std::int64_t map_size = 50;

}  // namespace

/// Everything that happened so far, for watchers who read it at their own pace.
class WatchServer::Works {
 public:
  Works(const Prepared& prepared, std::int64_t last_epoch, const ServeSettings& settings)
      : prepared_(prepared),
        part_(prepared.parts.has(DataPart::validation) ? DataPart::validation : DataPart::train) {
    const Dataset& raw = prepared.raw.train;
    const bool has_plane = raw.features.shape()[1] == 2 && raw.has_classes();
    page_ = watch_page({.title = prepared.title(),
                        .about = prepared.in_words(),
                        .epochs = last_epoch,
                        .plane = has_plane ? std::optional(raw) : std::nullopt},
                       raw.axis_names());
    if (has_plane) plane_ = plane_of(raw);
    told_.push_back(start_event());
    set_up();
    listen(settings);
    painter_ = std::thread([this] { paint(); });
  }
  Works(const Works&) = delete;
  Works& operator=(const Works&) = delete;
  ~Works() {
    {
      const std::lock_guard lock(mutex_);
      is_over_ = true;
    }
    changed_.notify_all();
    server_.stop();
    listener_.join();
    painter_.join();
  }

  [[nodiscard]] const std::string& url() const { return url_; }

  void tell(std::string event) {
    {
      const std::lock_guard lock(mutex_);
      told_.push_back(std::move(event));
    }
    changed_.notify_all();
  }

  /// Leaves a copy of the network to be painted; one that waits is replaced.
  void leave(std::int64_t epoch, const Network& network) {
    {
      const std::lock_guard lock(mutex_);
      waiting_.emplace(Moment{epoch, network});
    }
    changed_.notify_all();
  }

 private:
  struct Moment {
    std::int64_t epoch;
    Network network;
  };

  void set_up() {
    server_.new_task_queue = [] { return new httplib::ThreadPool(most_watchers + spare_threads); };
    server_.set_read_timeout(2s);
    server_.set_write_timeout(2s);
    server_.set_keep_alive_timeout(1);
    server_.set_payload_max_length(1024);
    server_.set_default_headers(
        {{"Cache-Control", "no-store"},
         {"X-Content-Type-Options", "nosniff"},
         {"Content-Security-Policy",
          "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; "
          "connect-src 'self'; img-src data:"}});
    server_.Get("/", [this](const httplib::Request&, httplib::Response& response) {
      response.set_content(page_, "text/html; charset=utf-8");
    });
    server_.Get("/events", [this](const httplib::Request&, httplib::Response& response) {
      if (watchers_.fetch_add(1) >= most_watchers) {
        --watchers_;
        response.status = 503;
        response.set_content("There are too many watchers already.\n", "text/plain");
        return;
      }
      auto seen = std::make_shared<Seen>();
      response.set_chunked_content_provider(
          "text/event-stream",
          [this, seen](std::size_t, httplib::DataSink& sink) { return serve(*seen, sink); },
          [this](bool) { --watchers_; });
    });
  }

  void listen(const ServeSettings& settings) {
    const int port = settings.port == 0 ? server_.bind_to_any_port(settings.address)
                     : server_.bind_to_port(settings.address, settings.port) ? settings.port
                                                                             : -1;
    if (port < 0) {
      throw SettingError(
          {.what = fmt::format("nothing can listen on {} port {}", settings.address, settings.port),
           .expected = "an address of this machine and a port that is free",
           .found = "it is refused",
           .remedy = "--port 0 takes any free port"});
    }
    const bool is_ipv6 = settings.address.find(':') != std::string::npos;
    url_ = fmt::format("http://{}:{}/", is_ipv6 ? "[" + settings.address + "]" : settings.address,
                       port);
    listener_ = std::thread([this] { server_.listen_after_bind(); });
  }

  /// How far a watcher has read.
  struct Seen {
    std::size_t told = 0;
    std::int64_t picture = 0;
    std::chrono::steady_clock::time_point last = {};
  };

  /// Tells a watcher what is new, or waits for it. False when the watcher is gone.
  bool serve(Seen& seen, httplib::DataSink& sink) {
    std::this_thread::sleep_until(seen.last + pause);
    std::string news;
    {
      std::unique_lock lock(mutex_);
      changed_.wait_for(lock, 2s, [&] {
        return is_over_ || seen.told < told_.size() || seen.picture < picture_number_;
      });
      if (is_over_) return false;
      for (; seen.told < told_.size(); ++seen.told)
        news += told_[seen.told];
      if (seen.picture < picture_number_) news += picture_;
      seen.picture = picture_number_;
    }
    seen.last = std::chrono::steady_clock::now();
    // A comment now and then tells whether the watcher is still there.
    if (news.empty()) news = ": nothing new\n\n";
    return sink.write(news.data(), news.size());
  }

  /// Makes pictures of the networks that are left, as long as the server lives.
  void paint() {
    for (;;) {
      std::optional<Moment> moment;
      {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [&] { return is_over_ || waiting_; });
        if (is_over_) return;
        moment = std::move(waiting_);
        waiting_.reset();
      }
      const Dataset& part = prepared_.parts[part_];
      std::optional<Tensor> confusion;
      std::optional<DecisionMap> map;
      try {
        const Assessment assessment = assess(moment->network, part, {.loss = prepared_.loss});
        if (assessment.classes) confusion = assessment.classes->confusion;
        if (plane_) {
          const Model model = model_of(moment->network, prepared_.loss, prepared_.parts.train);
          map = decision_map(model, plane_->across, plane_->up, map_size);
        }
      } catch (const Error&) {
        // Weights that are no longer numbers make no picture; the figures tell of it.
        continue;
      }
      if (!confusion && !map) continue;
      std::string picture = picture_event(moment->epoch, std::string(word(part_)), confusion, map);
      {
        const std::lock_guard lock(mutex_);
        picture_ = std::move(picture);
        ++picture_number_;
      }
      changed_.notify_all();
      std::this_thread::sleep_for(pause);
    }
  }

  const Prepared& prepared_;
  DataPart part_;
  std::string page_;
  std::string url_;
  std::optional<Plane> plane_;

  std::mutex mutex_;
  std::condition_variable changed_;
  std::vector<std::string> told_;  ///< events that every watcher gets
  std::string picture_;            ///< the last one: older ones are not missed
  std::int64_t picture_number_ = 0;
  std::optional<Moment> waiting_;
  bool is_over_ = false;

  std::atomic<int> watchers_ = 0;
  httplib::Server server_;
  std::thread listener_;
  std::thread painter_;
};

WatchServer::WatchServer(const Prepared& prepared, std::int64_t last_epoch,
                         const ServeSettings& settings)
    : works_(std::make_unique<Works>(prepared, last_epoch, settings)) {}

WatchServer::~WatchServer() = default;

std::string WatchServer::url() const {
  return works_->url();
}

void WatchServer::tell(const EpochFigures& figures, const Network& network) {
  works_->tell(epoch_event(figures));
  works_->leave(figures.epoch, network);
}

void WatchServer::tell_end(const RunRecord& run) {
  works_->tell(end_event(run));
}

}  // namespace lattice::tools
