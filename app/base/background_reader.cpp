#include "app/base/background_reader.h"

#include <algorithm>

#include "store/sample_store.h"

namespace jacinth::app {

BackgroundReader::BackgroundReader(std::string path, std::string identity, QObject* parent)
    : QObject(parent), path_(std::move(path)), identity_(std::move(identity)), thread_([this] { run(); }) {}

BackgroundReader::~BackgroundReader() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        waiting_.clear();
    }
    wake_.notify_all();
    thread_.join();
}

std::uint64_t BackgroundReader::ask(QObject* client, const char* name, Work work, bool later) {
    std::uint64_t number = 0;
    {
        const std::lock_guard lock(mutex_);
        number = ++asked_;
        const auto same = std::find_if(waiting_.begin(), waiting_.end(),
                                       [&](const Request& r) { return r.key == client && r.name == name; });
        if (same != waiting_.end()) {
            same->work = std::move(work);
            same->number = number;
            return number;
        }
        waiting_.push_back({client, client, name, std::move(work), later, number});
    }
    wake_.notify_one();
    return number;
}

bool BackgroundReader::idle() const {
    const std::lock_guard lock(mutex_);
    return waiting_.empty() && underWay_ == 0;
}

void BackgroundReader::run() {
    std::unique_ptr<Study> study;
    while (true) {
        std::unique_lock lock(mutex_);
        wake_.wait(lock, [this] { return ending_ || !waiting_.empty(); });
        if (ending_) return;
        auto next = std::find_if(waiting_.begin(), waiting_.end(), [](const Request& r) { return !r.later; });
        if (next == waiting_.end()) next = waiting_.begin();
        Request request = std::move(*next);
        waiting_.erase(next);
        ++underWay_;
        lock.unlock();
        serve(request, study);
    }
}

void BackgroundReader::serve(Request& request, std::unique_ptr<Study>& study) {
    Deliver deliver;
    QString trouble;
    try {
        if (!study) {
            auto opened = Study::open(path_, true);
            if (opened && (*opened)->fileIdentity() != identity_) {
                trouble = kAnotherFile;
            } else if (opened) {
                study = std::move(*opened);
                study->samples().setCacheSize(cacheBytes_);
            } else {
                trouble = QString::fromStdString(opened.error().message);
            }
        }
        if (study) {
            study->refresh();
            deliver = request.work(*study);
        }
    } catch (const std::exception& e) {
        trouble = e.what();
        study.reset();  // whatever it had in memory is not to be relied on
    }
    {
        const std::lock_guard lock(mutex_);
        done_.push_back({request.client, std::move(deliver), trouble, request.number});
    }
    ready_.notify_all();
    QMetaObject::invokeMethod(this, &BackgroundReader::deliverOldest, Qt::QueuedConnection);
}

bool BackgroundReader::deliverWithin(std::uint64_t number, std::chrono::microseconds limit) {
    std::unique_lock lock(mutex_);
    const auto asked = [&] {
        return std::find_if(done_.begin(), done_.end(), [&](const Done& d) { return d.number == number; });
    };
    if (!ready_.wait_for(lock, limit, [&] { return asked() != done_.end(); })) return false;
    const auto found = asked();
    Done done = std::move(*found);
    done_.erase(found);
    --underWay_;
    lock.unlock();
    deliver(done);
    return true;
}

void BackgroundReader::deliverOldest() {
    Done done;
    {
        const std::lock_guard lock(mutex_);
        if (done_.empty()) return;  // delivered already
        done = std::move(done_.front());
        done_.pop_front();
        --underWay_;
    }
    deliver(done);
}

void BackgroundReader::deliver(Done& done) {
    if (done.client && done.deliver) done.deliver();
    if (!done.trouble.isEmpty()) emit failed(done.trouble);
}

}  // namespace jacinth::app
