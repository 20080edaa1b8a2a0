// Loaded before the C++ library by tests: from main() on, one of all allocations by operator new fails.
//
// NEW_FAILS_AT=N  which one, from 1; unset: none
// NEW_COUNT=F     how many there were is written to this file at the end

#include <dlfcn.h>
#include <unistd.h>

#include <atomic>
#include <cstdio>
#include <cstdlib>
#include <new>

namespace {

std::atomic<bool> counting{false};
std::atomic<long> calls{0};
long fails_at = 0;
pid_t first_process = 0;

bool fails() {
    if (!counting.load(std::memory_order_relaxed) || first_process != ::getpid()) return false;
    return ++calls == fails_at;
}

using Main = int(int, char**, char**);
Main* real_main = nullptr;

int counted_main(int argc, char** argv, char** environment) {
    if (const char* at = std::getenv("NEW_FAILS_AT")) fails_at = std::atol(at);
    first_process = ::getpid();
    counting = true;
    const int status = real_main(argc, argv, environment);
    counting = false;
    if (const char* count = std::getenv("NEW_COUNT")) {
        if (auto* file = std::fopen(count, "w")) {
            std::fprintf(file, "%ld\n", calls.load());
            std::fclose(file);
        }
    }
    return status;
}

void* allocate(std::size_t size, std::size_t alignment) {
    if (fails()) return nullptr;
    if (size == 0) size = 1;
    return alignment ? std::aligned_alloc(alignment, (size + alignment - 1) / alignment * alignment)
                     : std::malloc(size);
}

void* or_throw(void* memory) {
    return memory ? memory : throw std::bad_alloc();
}

}  // namespace

extern "C" int __libc_start_main(Main* main, int argc, char** argv, void (*init)(), void (*fini)(),
                                 void (*rtld_fini)(), void* stack_end) {
    real_main = main;
    using Start = int(Main*, int, char**, void (*)(), void (*)(), void (*)(), void*);
    auto* start = reinterpret_cast<Start*>(::dlsym(RTLD_NEXT, "__libc_start_main"));
    return start(counted_main, argc, argv, init, fini, rtld_fini, stack_end);
}

void* operator new(std::size_t size) {
    return or_throw(allocate(size, 0));
}
void* operator new[](std::size_t size) {
    return or_throw(allocate(size, 0));
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    return allocate(size, 0);
}
void* operator new[](std::size_t size, const std::nothrow_t&) noexcept {
    return allocate(size, 0);
}
void* operator new(std::size_t size, std::align_val_t alignment) {
    return or_throw(allocate(size, static_cast<std::size_t>(alignment)));
}
void* operator new[](std::size_t size, std::align_val_t alignment) {
    return or_throw(allocate(size, static_cast<std::size_t>(alignment)));
}
void operator delete(void* memory) noexcept {
    std::free(memory);
}
void operator delete[](void* memory) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
    std::free(memory);
}
void operator delete[](void* memory, std::size_t) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::align_val_t) noexcept {
    std::free(memory);
}
void operator delete[](void* memory, std::align_val_t) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept {
    std::free(memory);
}
