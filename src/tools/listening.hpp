#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace lattice::tools {

/// Where a page is served.
struct ServeSettings {
  std::string address = "127.0.0.1";  ///< the listen address: this machine only
  int port = 8017;                    ///< 0 for any free port
};

/// A listening socket.
class Listening {
 public:
  /// @throws SettingError if the address is not one of this machine, or the port is taken;
  ///         std::system_error if the machine has no socket left.
  explicit Listening(const ServeSettings& settings);
  Listening(const Listening&) = delete;
  Listening& operator=(const Listening&) = delete;
  ~Listening();

  /// Returns the socket; the caller closes it.
  [[nodiscard]] int take();

  [[nodiscard]] std::uint16_t port() const { return port_; }

  /// The address of the page: `http://127.0.0.1:8017/`.
  [[nodiscard]] std::string url() const;

  /// Whether the `Host` header of a request names this server. Otherwise a foreign page whose own
  /// name resolves to this machine could read everything.
  [[nodiscard]] bool answers_to(std::string_view host) const;

 private:
  std::string address_;
  int socket_ = -1;
  std::uint16_t port_ = 0;
};

}  // namespace lattice::tools
