#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace lattice::tools {

/// Where a page is served.
struct ServeSettings {
  std::string address = "127.0.0.1";  ///< whom it listens to: this machine alone
  int port = 8017;                    ///< 0 for any that is free
};

/// A socket on which nobody else listens.
class Listening {
 public:
  /// @throws SettingError when the address is not one of this machine, or the port is taken;
  ///         std::system_error when the machine has no socket left.
  explicit Listening(const ServeSettings& settings);
  Listening(const Listening&) = delete;
  Listening& operator=(const Listening&) = delete;
  ~Listening();

  /// The socket; who takes it closes it.
  [[nodiscard]] int take();

  [[nodiscard]] std::uint16_t port() const { return port_; }

  /// Where the page is: `http://127.0.0.1:8017/`.
  [[nodiscard]] std::string url() const;

  /// Whether the name under which a browser asks, as its `Host` says it, is one that this was asked
  /// to serve: a page from elsewhere can have its own name lead here, and would then be told
  /// everything.
  [[nodiscard]] bool answers_to(std::string_view host) const;

 private:
  std::string address_;
  int socket_ = -1;
  std::uint16_t port_ = 0;
};

}  // namespace lattice::tools
