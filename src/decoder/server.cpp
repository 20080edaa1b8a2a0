// The process that decodes: it is asked for one check after the other, and asks for the bytes it needs.

#include "decoder/server.hpp"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>
#include <new>

#include "content/apart_messages.hpp"
#include "content/formats.hpp"
#include "content/memory.hpp"
#include "decoder/drawn_content.hpp"

namespace undershelf {

using namespace content;

namespace {

/// The other side is gone.
struct Closed {};

/// Seconds without a word from this side, after which it ends itself: the other one may be there no more.
constexpr unsigned longest_silence = 300;

void receive_all(int socket, MutableBytes out) {
    while (!out.empty()) {
        const auto got = ::recv(socket, out.data(), out.size(), 0);
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) throw Closed();
        out = out.subspan(static_cast<std::size_t>(got));
    }
}
template <class Message>
Message receive(int socket) {
    Message out;
    receive_all(socket, {reinterpret_cast<std::uint8_t*>(&out), sizeof out});
    return out;
}
template <class Message>
void send(int socket, const Message& message) {
    if (!send_all(socket, {reinterpret_cast<const std::uint8_t*>(&message), sizeof message})) throw Closed();
}

/// The content on the other side. Small reads are answered from what was asked for before.
class ServedContent final : public Content {
  public:
    ServedContent(int socket, std::uint64_t size) : socket_(socket), size_(size) {}
    std::uint64_t size() const override { return size_; }

    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        ::alarm(longest_silence);
        std::size_t done = 0;
        while (done < out.size() && offset + done < size_) {
            const auto at = offset + done;
            if (at < held_at_ || at - held_at_ >= held_.size()) fetch(at, out.size() - done);
            const auto from = static_cast<std::size_t>(at - held_at_);
            if (from >= held_.size()) break;
            const auto n = std::min(out.size() - done, held_.size() - from);
            std::copy_n(held_.begin() + static_cast<std::ptrdiff_t>(from), n,
                        out.begin() + static_cast<std::ptrdiff_t>(done));
            done += n;
        }
        return done;
    }

  private:
    void fetch(std::uint64_t at, std::uint64_t wanted) {
        constexpr std::uint64_t ahead = 16 << 10;
        Answer ask;
        ask.kind = AnswerKind::wants_bytes;
        ask.offset = at;
        ask.length = std::min({std::max(wanted, ahead), most_bytes, size_ - at});
        send(socket_, ask);
        held_.resize(static_cast<std::size_t>(std::min(receive<Served>(socket_).bytes, ask.length)));
        receive_all(socket_, held_);
        held_at_ = at;
    }

    int socket_;
    std::uint64_t size_;
    std::uint64_t held_at_ = 0;
    ByteVector held_;
};

/// Asks the other side, which shares it out among all that check.
class AskedMemory final : public MemoryKeeper {
  public:
    /// `own_data`: bytes that the process has before it reads anything.
    AskedMemory(int socket, std::uint64_t own_data) : socket_(socket), own_data_(own_data) {}

    bool take(std::uint64_t bytes, bool wait) override {
        Answer ask;
        ask.kind = AnswerKind::wants_memory;
        ask.length = bytes;
        ask.offset = wait;
        send(socket_, ask);
        // Others may take their time.
        ::alarm(0);
        const auto got = receive<Served>(socket_).bytes;
        ::alarm(longest_silence);
        return got == 1;
    }
    void give(std::uint64_t bytes) override {
        Answer back;
        back.kind = AnswerKind::gives_memory;
        back.length = bytes;
        // Claims end while something is thrown as well; who is gone is noticed by the next question.
        send_all(socket_, {reinterpret_cast<const std::uint8_t*>(&back), sizeof back});
    }
    void bound(std::optional<std::uint64_t> bytes) override {
        rlimit all{}, limit{};
        const bool bounded = ::getrlimit(RLIMIT_AS, &all) == 0 && all.rlim_cur != RLIM_INFINITY;
        if (!bounded || ::getrlimit(RLIMIT_DATA, &limit) != 0) return;
        limit.rlim_cur = bytes ? std::min<rlim_t>(limit.rlim_max, own_data_ + *bytes) : limit.rlim_max;
        ::setrlimit(RLIMIT_DATA, &limit);
    }

  private:
    int socket_;
    std::uint64_t own_data_;
};

void send_result(int socket, const std::string& text) {
    ::alarm(0);
    Answer out;
    out.kind = AnswerKind::result;
    out.length = text.size();
    send(socket, out);
    if (!send_all(socket, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()})) throw Closed();
}

/// Piece by piece; false once that is enough.
bool send_text(int socket, std::string_view text) {
    while (!text.empty()) {
        const auto piece = text.substr(0, most_text);
        Answer out;
        out.kind = AnswerKind::text;
        out.length = piece.size();
        send(socket, out);
        if (!send_all(socket, {reinterpret_cast<const std::uint8_t*>(piece.data()), piece.size()}))
            throw Closed();
        ::alarm(longest_silence);
        if (receive<Served>(socket).bytes) return false;
        text.remove_prefix(piece.size());
    }
    return true;
}

/// Gives on what `what` gives out.
void answer_with_text(int socket, Content& content, void (*what)(Content&, const TakeText&)) {
    try {
        bool enough = false;
        what(content, [&](std::string_view piece) { return enough = enough || !send_text(socket, piece); });
    } catch (const std::bad_alloc&) {
        // What asks for too much gives out no more.
    }
    send_result(socket, {});
}

void answer_with_picture(int socket, Content& content, const Request& request,
                         const drawing::Module& module) {
    std::string file;
    const auto said = request.question == Question::draw ? drawn_content(module, content, request, file)
                                                         : drawn_page(module, content, request, file);
    send_text(socket, file);
    send_result(socket, as_text(said));
}

void answer(int socket, const Request& request, const drawing::Module* module) {
    ::alarm(longest_silence);
    ServedContent content(socket, request.size);
    switch (request.question) {
        case Question::check: {
            const CheckLimits limits{request.most_output, request.most_searched, request.title != 0};
            return send_result(socket, as_text(check_content(content, limits).value_or(Check())));
        }
        case Question::inside: {
            const auto* format = format_named(request.format);
            if (!format) throw Closed();
            return send_result(socket, as_text(content_inside(content, *format)));
        }
        case Question::text:
            return answer_with_text(socket, content, content_text);
        case Question::outline:
            return answer_with_text(socket, content, content_outline);
        case Question::draw:
        case Question::page:
            if (!module) throw Closed();
            return answer_with_picture(socket, content, request, *module);
    }
    throw Closed();
}

/// Bytes of its own that this process has: libraries, and what they read before anything was asked.
std::uint64_t data_now() {
    constexpr std::uint64_t usual = 48 << 20, margin = 24 << 20;
    std::uint64_t pages = 0, skipped = 0;
    std::ifstream statm("/proc/self/statm");  // pages: size, resident, shared, text, lib, data
    for (int i = 0; i < 5; ++i) statm >> skipped;
    statm >> pages;
    return std::max(usual, pages * static_cast<std::uint64_t>(::sysconf(_SC_PAGESIZE)) + margin);
}

}  // namespace

std::uint64_t own_data() {
    static const auto out = data_now();
    return out;
}

int serve_contents(int socket, const drawing::Module* module) {
    AskedMemory memory(socket, own_data());
    const KeptBy kept(memory);
    try {
        for (;;) answer(socket, receive<Request>(socket), module);
    } catch (const Closed&) {
        return 0;
    } catch (const std::bad_alloc&) {
        return 1;
    }
}

}  // namespace undershelf
