#include "tools/watch_server.hpp"

#include <fmt/format.h>
#include <microhttpd.h>
#include <sys/resource.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <condition_variable>
#include <cstring>
#include <list>
#include <mutex>
#include <nlohmann/json.hpp>
#include <optional>
#include <stop_token>
#include <system_error>
#include <thread>
#include <utility>
#include <vector>

#include "files/library_files.hpp"
#include "files/loaded_library.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/learning/look_through.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/show/watch_page.hpp"
#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "show/network_picture.hpp"

namespace lattice::tools {
namespace {

using namespace std::chrono_literals;
using Clock = std::chrono::steady_clock;

/// The functions of the library for the web that are used. It is loaded when the first page is
/// served.
struct WebLibrary {
  LoadedLibrary library{web_library_file, "the watch page"};
  decltype(&::MHD_add_response_header) add_response_header =
      library.find("MHD_add_response_header");
  decltype(&::MHD_create_response_from_buffer) create_response_from_buffer =
      library.find("MHD_create_response_from_buffer");
  decltype(&::MHD_create_response_from_callback) create_response_from_callback =
      library.find("MHD_create_response_from_callback");
  decltype(&::MHD_destroy_response) destroy_response = library.find("MHD_destroy_response");
  decltype(&::MHD_get_connection_info) get_connection_info =
      library.find("MHD_get_connection_info");
  decltype(&::MHD_lookup_connection_value) lookup_connection_value =
      library.find("MHD_lookup_connection_value");
  decltype(&::MHD_queue_response) queue_response = library.find("MHD_queue_response");
  decltype(&::MHD_resume_connection) resume_connection = library.find("MHD_resume_connection");
  decltype(&::MHD_start_daemon) start_daemon = library.find("MHD_start_daemon");
  decltype(&::MHD_stop_daemon) stop_daemon = library.find("MHD_stop_daemon");
  decltype(&::MHD_suspend_connection) suspend_connection = library.find("MHD_suspend_connection");
};

/// @throws ProgramError where the system does not have the library.
const WebLibrary& web() {
  static const WebLibrary functions;
  return functions;
}

/// How many can watch at once, and how many more connections are answered beside them.
constexpr unsigned most_watchers = 256;
constexpr unsigned spare_connections = 32;

/// Files that are left to the run: it has to save its model.
constexpr rlim_t kept_back = 32;

/// What is kept for a connection: its request, headers and all, has to find room in there.
constexpr std::size_t most_bytes_asked = 8192;

/// What a watcher is sent at a time.
constexpr std::size_t piece = 4096;

/// How long a request may take, and how long a watcher may read nothing.
constexpr auto longest_request = 5s;
constexpr unsigned longest_silence_s = 10;

/// How often watchers are told what is new, at most; and how often they are sent something even if
/// there is nothing, which tells whether they are still there.
constexpr auto pause = 200ms;
constexpr auto beat = 2s;

/// Pictures are made of so many by so many answers.
constexpr std::int64_t map_size = 50;

using Text = std::shared_ptr<const std::string>;

/// What happened in a run, one after another, thinned out where it would be too much: of a long run
/// every second, every fourth and so on is left, so that there are never more than so many, from
/// its beginning to now. Only the run adds.
template <class Figures>
class Backlog {
 public:
  /// What happened, and its place in the order of all that happened.
  struct Entry {
    std::int64_t number;
    Figures figures;
  };

  /// Counts one more. False where it is thinned out.
  [[nodiscard]] bool is_due() { return count_++ % stride_ == 0; }

  void add(std::int64_t number, const Figures& figures) {
    if (entries_.size() == most) {
      for (std::size_t at = 1; 2 * at < most; ++at)
        entries_[at] = std::move(entries_[2 * at]);
      entries_.erase(entries_.begin() + most / 2, entries_.end());
      stride_ *= 2;
    }
    entries_.push_back({number, figures});
  }

  /// The first one after a place in the order; null where there is none.
  [[nodiscard]] const Entry* after(std::int64_t number) const {
    const auto found = std::ranges::upper_bound(entries_, number, {}, &Entry::number);
    return found == entries_.end() ? nullptr : &*found;
  }
  [[nodiscard]] const Entry* last() const { return entries_.empty() ? nullptr : &entries_.back(); }

 private:
  static constexpr std::size_t most = 2048;  ///< more than a screen has columns
  std::vector<Entry> entries_;
  std::uint64_t count_ = 0;
  std::uint64_t stride_ = 1;
};

/// How many connections there is room for beside the files of the run.
unsigned connection_limit() {
  rlimit files{};
  if (getrlimit(RLIMIT_NOFILE, &files) != 0) return spare_connections;
  const rlim_t room = files.rlim_cur > kept_back ? files.rlim_cur - kept_back : 0;
  if (room == 0) throw std::system_error(EMFILE, std::generic_category());
  return static_cast<unsigned>(std::min<rlim_t>(room, most_watchers + spare_connections));
}

struct StopDaemon {
  void operator()(MHD_Daemon* daemon) const { web().stop_daemon(daemon); }
};
struct ForgetAnswer {
  void operator()(MHD_Response* answer) const { web().destroy_response(answer); }
};
using Answer = std::unique_ptr<MHD_Response, ForgetAnswer>;

void add_headers(MHD_Response* answer, const char* type) {
  const std::array<std::pair<const char*, const char*>, 5> headers = {
      {{"Content-Type", type},
       {"Connection", "close"},
       {"Cache-Control", "no-store"},
       {"X-Content-Type-Options", "nosniff"},
       {"Content-Security-Policy",
        "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; "
        "connect-src 'self'; img-src data:"}}};
  for (const auto& [name, value] : headers)
    web().add_response_header(answer, name, value);
}

MHD_Result send(MHD_Connection* connection, unsigned status, std::string_view text,
                const char* type) {
  const Answer answer(web().create_response_from_buffer(text.size(), const_cast<char*>(text.data()),
                                                        MHD_RESPMEM_MUST_COPY));
  if (!answer) return MHD_NO;
  add_headers(answer.get(), type);
  return web().queue_response(connection, status, answer.get());
}

}  // namespace

/// Everything that happened so far, for watchers who read it at their own pace.
class WatchServer::Works {
 public:
  Works(const Prepared& prepared, std::int64_t last_epoch, const ServeSettings& settings)
      : prepared_(prepared),
        part_(prepared.split.has(DataPart::validation) ? DataPart::validation : DataPart::train),
        listening_(settings) {
    const Dataset raw = prepared.data().taking(prepared.split.train.rows());
    for (const ShownSubject& subject : shown_subjects()) {
      if (subject.watched == nullptr) continue;
      if (auto watched = subject.watched(prepared)) subjects_.push_back(std::move(watched));
    }
    const bool has_plane = raw.feature_count() == 2 && raw.has_classes();
    page_ = watch_page({.title = prepared.title(),
                        .about = prepared.in_words(),
                        .epochs = last_epoch,
                        .plane = has_plane ? std::optional(raw) : std::nullopt,
                        .references = prepared.lesson.references},
                       raw.axis_names(), subjects_);
    if (has_plane) plane_ = plane_of(raw);
    serve();
    try {
      waker_ = std::jthread([this](const std::stop_token& stop) { wake(stop); });
      painter_ = std::jthread([this](const std::stop_token& stop) { paint(stop); });
    } catch (const std::system_error&) {
      end();
      throw;
    }
  }
  Works(const Works&) = delete;
  Works& operator=(const Works&) = delete;
  ~Works() { end(); }

  [[nodiscard]] std::string url() const { return listening_.url(); }

  // What the run calls, on its thread. What is told is noted and nothing more: it becomes text, and
  // is sent, when somebody watches.

  void tell(const StepFigures& figures) {
    if (!steps_.is_due()) return;
    const std::lock_guard lock(mutex_);
    steps_.add(++happened_, figures);
  }

  /// Takes a copy of the network to be painted, now and then; one that waits is replaced.
  void tell(const EpochFigures& figures, const Network& network) {
    const Clock::time_point now = Clock::now();
    const bool is_due = epochs_.is_due();
    const bool is_copied = now - copied_ >= pause;
    if (!is_due && !is_copied) return;
    std::optional<Moment> moment;
    if (is_copied) {
      moment.emplace(Moment{figures.epoch, network});
      copied_ = now;
    }
    const std::lock_guard lock(mutex_);
    if (is_due) epochs_.add(++happened_, figures);
    if (!moment) return;
    waiting_.swap(moment);
    changed_.notify_all();
  }

  /// The last of all: nothing of it is thinned out.
  void tell_end(const RunRecord& run, const Network& network) {
    const EpochFigures& last = run.epochs.back();
    Moment moment{run.epoch_of_weights(), network};
    const std::lock_guard lock(mutex_);
    if (epochs_.last() == nullptr || epochs_.last()->figures.epoch != last.epoch)
      epochs_.add(++happened_, last);
    if (!run.steps.empty() && steps_.last() != nullptr &&
        steps_.last()->figures.step != run.steps.back().step)
      steps_.add(++happened_, run.steps.back());
    end_ = end_event(run);
    waiting_.emplace(std::move(moment));
    changed_.notify_all();
  }

 private:
  struct Moment {
    std::int64_t epoch;
    Network network;
  };

  /// A connection, from its first byte on.
  struct Guest {
    int socket;
    Clock::time_point since;
    bool has_asked = false;
  };

  /// Somebody who watches, and how far.
  struct Watcher {
    Works* works;
    MHD_Connection* connection;
    bool is_greeted = false;  ///< it was told that a run begins
    bool has_end = false;     ///< and that it is over
    std::int64_t told = 0;    ///< how far in the order of what happened
    std::int64_t picture = 0;
    Text current = nullptr;  ///< what is being sent
    std::size_t sent = 0;    ///< of it
    Clock::time_point last = Clock::now();
    bool sleeps = false;
  };

  /// The threads end first, so that nobody else wakes a connection that the daemon ends.
  void end() {
    {
      const std::lock_guard lock(mutex_);
      is_over_ = true;
    }
    painter_ = {};
    waker_ = {};
    wake_all();
    daemon_ = nullptr;
  }

  void serve() {
    const unsigned limit = connection_limit();
    const int socket = listening_.take();
    daemon_.reset(web().start_daemon(
        MHD_USE_AUTO | MHD_USE_INTERNAL_POLLING_THREAD | MHD_ALLOW_SUSPEND_RESUME, 0, nullptr,
        nullptr, &Works::on_request, this, MHD_OPTION_LISTEN_SOCKET, socket,
        MHD_OPTION_CONNECTION_LIMIT, limit, MHD_OPTION_CONNECTION_MEMORY_LIMIT, most_bytes_asked,
        MHD_OPTION_CONNECTION_MEMORY_INCREMENT, std::size_t{1024}, MHD_OPTION_CONNECTION_TIMEOUT,
        longest_silence_s, MHD_OPTION_NOTIFY_CONNECTION, &Works::on_connection, this,
        MHD_OPTION_END));
    if (daemon_) return;
    const int problem = errno;
    close(socket);
    throw std::system_error(problem == 0 ? EAGAIN : problem, std::generic_category());
  }

  // What the daemon calls, on its thread. Nothing is thrown through it.

  static void on_connection(void* self, MHD_Connection* connection, void** place,
                            MHD_ConnectionNotificationCode what) noexcept {
    auto& works = *static_cast<Works*>(self);
    const std::lock_guard lock(works.mutex_);
    if (what == MHD_CONNECTION_NOTIFY_STARTED) {
      const MHD_ConnectionInfo* const info =
          web().get_connection_info(connection, MHD_CONNECTION_INFO_CONNECTION_FD);
      *place = nullptr;
      try {
        works.guests_.push_back({.socket = info->connect_fd, .since = Clock::now()});
        *place = &works.guests_.back();
      } catch (const std::bad_alloc&) {
        shutdown(info->connect_fd, SHUT_RDWR);
      }
    } else if (*place != nullptr) {
      std::erase_if(works.guests_, [&](const Guest& guest) { return &guest == *place; });
    }
  }

  static MHD_Result on_request(void* self, MHD_Connection* connection, const char* path,
                               const char* method, const char*, const char*, std::size_t*,
                               void**) noexcept {
    auto& works = *static_cast<Works*>(self);
    try {
      return works.answer(connection, path, method);
    } catch (const std::exception&) {
      return MHD_NO;
    }
  }

  MHD_Result answer(MHD_Connection* connection, std::string_view path, std::string_view method) {
    const MHD_ConnectionInfo* const info =
        web().get_connection_info(connection, MHD_CONNECTION_INFO_SOCKET_CONTEXT);
    if (info != nullptr && info->socket_context != nullptr) {
      const std::lock_guard lock(mutex_);
      static_cast<Guest*>(info->socket_context)->has_asked = true;
    }
    const char* const host = web().lookup_connection_value(connection, MHD_HEADER_KIND, "Host");
    if (host != nullptr && !listening_.answers_to(host)) {
      return send(connection, MHD_HTTP_MISDIRECTED_REQUEST,
                  "This page was not asked to be served under that name.\n", "text/plain");
    }
    if (method != "GET") {
      return send(connection, MHD_HTTP_METHOD_NOT_ALLOWED, "This server only shows the run.\n",
                  "text/plain");
    }
    if (path == "/") return send(connection, MHD_HTTP_OK, page_, "text/html; charset=utf-8");
    if (path == "/events") return let_watch(connection);
    return send(connection, MHD_HTTP_NOT_FOUND, "There is no such page.\n", "text/plain");
  }

  MHD_Result let_watch(MHD_Connection* connection) {
    auto watcher = std::make_unique<Watcher>(Watcher{.works = this, .connection = connection});
    {
      const std::lock_guard lock(mutex_);
      if (watchers_.size() >= most_watchers) watcher.reset();
    }
    if (!watcher) {
      return send(connection, MHD_HTTP_SERVICE_UNAVAILABLE,
                  "There are too many watchers already.\n", "text/plain");
    }
    const Answer answer(web().create_response_from_callback(
        MHD_SIZE_UNKNOWN, piece, &Works::on_room, watcher.get(), &Works::on_gone));
    if (!answer) return MHD_NO;
    {
      const std::lock_guard lock(mutex_);
      watchers_.push_back(std::move(watcher));
    }
    changed_.notify_all();
    add_headers(answer.get(), "text/event-stream");
    return web().queue_response(connection, MHD_HTTP_OK, answer.get());
  }

  /// A watcher can take more: it gets the next piece, or sleeps until there is one.
  static ssize_t on_room(void* self, std::uint64_t, char* buffer, std::size_t room) noexcept {
    auto& watcher = *static_cast<Watcher*>(self);
    Works& works = *watcher.works;
    const std::lock_guard lock(works.mutex_);
    if (!watcher.current && !works.has_next(watcher)) {
      if (works.is_over_) return MHD_CONTENT_READER_END_OF_STREAM;
      watcher.sleeps = true;
      web().suspend_connection(watcher.connection);
      return 0;
    }
    const std::size_t count = std::min(room, watcher.current->size() - watcher.sent);
    std::memcpy(buffer, watcher.current->data() + watcher.sent, count);
    watcher.sent += count;
    watcher.last = Clock::now();
    if (watcher.sent == watcher.current->size()) watcher.current = nullptr;
    return static_cast<ssize_t>(count);
  }

  static void on_gone(void* self) noexcept {
    auto& watcher = *static_cast<Watcher*>(self);
    Works& works = *watcher.works;
    const std::lock_guard lock(works.mutex_);
    std::erase_if(works.watchers_, [&](const auto& each) { return each.get() == &watcher; });
  }

  /// Gives a watcher what comes next. Under the lock.
  bool has_next(Watcher& watcher) {
    std::string news = news_for(watcher);
    if (!news.empty()) {
      watcher.current = std::make_shared<const std::string>(std::move(news));
    } else if (picture_ && watcher.picture < picture_number_) {
      watcher.current = picture_;
      watcher.picture = picture_number_;
    } else if (!is_over_ && Clock::now() - watcher.last >= beat) {
      watcher.current = nothing_new_;
    } else {
      return false;
    }
    watcher.sent = 0;
    return true;
  }

  /// What a watcher does not know yet, as events, a piece at a time. Under the lock.
  [[nodiscard]] std::string news_for(Watcher& watcher) const {
    std::string news;
    if (!std::exchange(watcher.is_greeted, true)) news += start_event();
    while (news.size() < piece) {
      const auto* const epoch = epochs_.after(watcher.told);
      const auto* const step = steps_.after(watcher.told);
      if (epoch == nullptr && step == nullptr) {
        if (end_ && !std::exchange(watcher.has_end, true)) news += *end_;
        break;
      }
      const bool is_epoch = step == nullptr || (epoch != nullptr && epoch->number < step->number);
      news += is_epoch ? epoch_event(epoch->figures) : step_event(step->figures);
      watcher.told = is_epoch ? epoch->number : step->number;
    }
    return news;
  }

  /// Whether there is anything to send to a watcher. Under the lock.
  [[nodiscard]] bool has_news_for(const Watcher& watcher) const {
    return !watcher.is_greeted || epochs_.after(watcher.told) != nullptr ||
           steps_.after(watcher.told) != nullptr || (end_ && !watcher.has_end) ||
           watcher.picture < picture_number_ || is_over_ || Clock::now() - watcher.last >= beat;
  }

  // Our own threads.

  /// Wakes watchers that sleep and have something to learn. Only who put the mark away wakes: a
  /// connection that sleeps cannot end.
  void wake_all() {
    std::vector<MHD_Connection*> sleepers;
    {
      const std::lock_guard lock(mutex_);
      for (const std::unique_ptr<Watcher>& watcher : watchers_) {
        if (!watcher->sleeps || !has_news_for(*watcher)) continue;
        watcher->sleeps = false;
        sleepers.push_back(watcher->connection);
      }
    }
    for (MHD_Connection* const each : sleepers)
      web().resume_connection(each);
  }

  /// Ends connections that take too long to say what they want. Under the lock.
  void show_out() {
    for (const Guest& guest : guests_) {
      if (!guest.has_asked && Clock::now() - guest.since > longest_request)
        shutdown(guest.socket, SHUT_RDWR);
    }
  }

  /// Has watchers told what is new, now and then.
  void wake(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
      {
        std::unique_lock lock(mutex_);
        changed_.wait_for(lock, stop, pause, [] { return false; });
        show_out();
      }
      wake_all();
    }
  }

  /// Makes pictures of the networks that are left.
  void paint(const std::stop_token& stop) {
    for (;;) {
      std::optional<Moment> moment;
      {
        std::unique_lock lock(mutex_);
        const auto is_asked_for = [&] { return waiting_.has_value() && !watchers_.empty(); };
        if (!changed_.wait(lock, stop, is_asked_for)) return;
        moment = std::move(waiting_);
        waiting_.reset();
      }
      try {
        if (Text picture = picture_of(*moment)) {
          const std::lock_guard lock(mutex_);
          picture_ = std::move(picture);
          ++picture_number_;
        }
      } catch (const std::exception&) {
        // Weights that are no longer numbers make no picture, nor does a machine without memory;
        // the figures tell of the run.
      }
      changed_.notify_all();
      std::unique_lock lock(mutex_);
      changed_.wait_for(lock, stop, pause, [] { return false; });
    }
  }

  /// The picture of a moment; none where nothing can be drawn.
  [[nodiscard]] Text picture_of(const Moment& moment) const {
    const RowSet& part = prepared_.split[part_];
    WatchedMoment watched{.epoch = moment.epoch, .part = std::string(word(part_))};
    const Assessment assessment = assess(moment.network, part, {.loss = prepared_.loss});
    if (assessment.classes) watched.confusion = assessment.classes->confusion;
    if (plane_) {
      const Model model = model_of(moment.network, prepared_.loss, prepared_.split.train);
      watched.map = decision_map(model, plane_->across, plane_->up, map_size);
    }
    watched.flow = look_through(moment.network, prepared_.loss, prepared_.split.train);
    const bool is_deep = std::ranges::count_if(watched.flow, &LayerFlow::learns) > 1;
    Json more;
    for (const std::unique_ptr<WatchedSubject>& subject : subjects_) {
      if (Json own = subject->moment(moment.network, part); !own.is_null())
        more[subject->key()] = std::move(own);
    }
    if (Json network = network_of(moment.network); !network.is_null())
      more["network"] = std::move(network);
    if (!watched.confusion && !watched.map && more.is_null() && !is_deep) return nullptr;
    return std::make_shared<const std::string>(moment_event(watched, more));
  }

  /// The network for the first row of the part; none where it is too large to be drawn, and of
  /// graphs, whose nodes are drawn.
  [[nodiscard]] Json network_of(const Network& network) const {
    constexpr std::int64_t most_weights = 200'000;
    const Dataset& data = prepared_.data();
    if (data.is_connected() || network.plan().weights() > most_weights) return {};
    const Model model = model_of(network, prepared_.loss, prepared_.split.train);
    const Batch row = RowSet(data).from(prepared_.split[part_].rows().front(), 1);
    try {
      return to_json(network_picture(work_answers(model, row), data.axis_names()));
    } catch (const Error&) {
      return {};  // too many lines to be worked one by one
    }
  }

  const Prepared& prepared_;
  DataPart part_;
  std::string page_;
  std::optional<Plane> plane_;
  std::vector<std::unique_ptr<WatchedSubject>> subjects_;
  Listening listening_;
  Text nothing_new_ = std::make_shared<const std::string>(": nothing new\n\n");

  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::int64_t happened_ = 0;  ///< how many entries were made in the two that follow
  Backlog<EpochFigures> epochs_;
  Backlog<StepFigures> steps_;
  std::optional<std::string> end_;  ///< the event of it
  Clock::time_point copied_ = {};   ///< when the run last gave a copy of its network
  Text picture_;                    ///< the last one: older ones are not missed
  std::int64_t picture_number_ = 0;
  std::optional<Moment> waiting_;
  std::list<Guest> guests_;
  std::vector<std::unique_ptr<Watcher>> watchers_;
  bool is_over_ = false;

  std::unique_ptr<MHD_Daemon, StopDaemon> daemon_;
  std::jthread waker_;
  std::jthread painter_;
};

WatchServer::WatchServer(const Prepared& prepared, std::int64_t last_epoch,
                         const ServeSettings& settings)
    : works_(std::make_unique<Works>(prepared, last_epoch, settings)) {}

WatchServer::~WatchServer() = default;

std::string WatchServer::url() const {
  return works_->url();
}

void WatchServer::tell(const EpochFigures& figures, const Network& network) {
  works_->tell(figures, network);
}

void WatchServer::tell(const StepFigures& figures) {
  works_->tell(figures);
}

void WatchServer::tell_end(const RunRecord& run, const Network& network) {
  works_->tell_end(run, network);
}

}  // namespace lattice::tools
