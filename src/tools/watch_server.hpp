#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "lattice/learning/training.hpp"
#include "lattice/lessons/prepare.hpp"
#include "tools/listening.hpp"

namespace lattice::tools {

/// Serves a page that shows a run while it trains, to any number of browsers. It gets copies of the
/// figures and works on its own threads, so that no browser can slow the run down or make it use
/// more memory; neither can a long run without browsers: a limited number of figures is stored, and
/// texts and pictures are made only for connected browsers. The number, requests and time of
/// connections are limited, and browsers that do not read are disconnected.
class WatchServer {
 public:
  /// Starts listening.
  /// @throws SettingError if the address or the port is not available; std::system_error if the
  ///         machine has no thread or file left.
  WatchServer(const Prepared& prepared, std::int64_t last_epoch, const ServeSettings& settings);
  WatchServer(const WatchServer&) = delete;
  WatchServer& operator=(const WatchServer&) = delete;
  ~WatchServer();

  /// The address of the page: `http://127.0.0.1:8017/`.
  [[nodiscard]] std::string url() const;

  /// Publishes an epoch; pictures are made from the copy of the network.
  void tell(const EpochFigures& figures, const Network& network);

  /// Publishes a recorded step.
  void tell(const StepFigures& figures);

  /// Publishes the end of the run and its network. The page stays available.
  void tell_end(const RunRecord& run, const Network& network);

 private:
  class Works;
  std::unique_ptr<Works> works_;
};

}  // namespace lattice::tools
