#pragma once
// Lines of a file that is open already, one at a time, in memory that no line can exceed.

#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <string>
#include <system_error>
#include <vector>

namespace undershelf {

class LineReader {
  public:
    static constexpr std::size_t longest = 64 << 20;  ///< bytes; of longer lines the start is given

    /// Reads from where `fd` is; it stays the caller's.
    explicit LineReader(int fd) : fd_(fd) {}

    /// The next line without its end (LF or CRLF); the last one may have none. False where there is no more.
    /// Throws std::system_error.
    bool next(std::string& line) {
        line.clear();
        bool any = false;
        while (at_ < end_ || fill()) {
            any = true;
            const auto* from = buffer_.data() + at_;
            const auto* stop = std::find(from, static_cast<const char*>(buffer_.data() + end_), '\n');
            const auto length = static_cast<std::size_t>(stop - from);
            line.append(from, std::min(length, longest - std::min(longest, line.size())));
            at_ += length;
            if (at_ == end_) continue;
            ++at_;
            break;
        }
        if (!line.empty() && line.back() == '\r') line.pop_back();
        return any;
    }

  private:
    bool fill() {
        buffer_.resize(64 << 10);
        ssize_t n = 0;
        do n = ::read(fd_, buffer_.data(), buffer_.size());
        while (n < 0 && errno == EINTR);
        if (n < 0) throw std::system_error(errno, std::generic_category(), "reading");
        at_ = 0;
        end_ = static_cast<std::size_t>(n);
        return n > 0;
    }

    int fd_;
    std::vector<char> buffer_;
    std::size_t at_ = 0, end_ = 0;
};

}  // namespace undershelf
