//! The guests of a session: screens and senders of commands, in this process or at the other end of a socket. Each has an
//! outbox that never holds more than a bounded amount, and nobody waits for a guest.

use std::collections::BTreeMap;
use std::io;
use std::net::Shutdown;
use std::os::unix::net::UnixStream;
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::thread::Builder;
use std::time::Duration;

use arc_swap::ArcSwap;
use crossbeam_channel::{Receiver, Sender, bounded};
use splimo_link::document::DocumentUpdate;
use splimo_link::frame::{self, FrameError, LONGEST_REQUEST};
use splimo_link::message::{Guest, Request, SessionInfo, Update, VERSION};
use splimo_link::outbox::{Next, Outbox};
use splimo_link::subscription::Subscription;
use splimo_show::command::Origin;
use splimo_wire::Protocol;

use super::place::SessionPlace;
use super::{Message, server};
use crate::clock::Instant;

/// The most that a guest may take to say who it is.
const HELLO: Duration = Duration::from_secs(5);
/// Guests at the most.
const MOST_GUESTS: usize = 64;
/// Requests of a guest that wait at the most; one that sends more waits itself, and nobody else waits for it.
const WAITING: usize = 4;
/// Updates on their way within this process.
const ON_THE_WAY: usize = 64;
/// The time that guests are waited for when they are sent away.
const FAREWELL: Duration = Duration::from_millis(300);

/// An outbox, shared between the session and who carries its contents off.
#[derive(Default)]
struct Post {
    outbox: Mutex<Inside>,
    filled: Condvar,
}

#[derive(Default)]
struct Inside {
    outbox: Outbox,
    closed: bool,
    /// True if all that was put in has been carried off, once it is closed.
    done: bool,
}

impl Post {
    fn inside(&self) -> MutexGuard<'_, Inside> {
        self.outbox.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Puts an update in; false where the guest lets too much come together.
    fn put(&self, update: Update) -> bool {
        let mut inside = self.inside();
        if !inside.closed {
            inside.outbox.put(update);
        }
        let fits = !inside.outbox.overflows();
        drop(inside);
        self.filled.notify_one();
        fits
    }

    fn want_whole(&self) {
        self.inside().outbox.want_whole();
        self.filled.notify_one();
    }

    fn close(&self) {
        self.inside().closed = true;
        self.filled.notify_one();
    }

    /// Waits for the next thing to tell; none where the outbox is closed and empty.
    fn next(&self) -> Option<Next> {
        let mut inside = self.inside();
        loop {
            if let Some(next) = inside.outbox.take() {
                return Some(next);
            }
            if inside.closed {
                inside.done = true;
                return None;
            }
            inside = self.filled.wait(inside).unwrap_or_else(PoisonError::into_inner);
        }
    }

    fn is_done(&self) -> bool {
        self.inside().done
    }
}

/// A guest as the session knows it.
struct Known {
    guest: Guest,
    /// True if it has been welcomed: before that nothing else is told.
    welcomed: bool,
    post: Arc<Post>,
    subscription: Subscription,
    due: Instant,
    stream: Option<UnixStream>,
    /// One for each of its requests that wait.
    waiting: Receiver<()>,
}

/// A screen that may be told something.
pub(super) struct Screen<'g> {
    known: &'g mut Known,
}

impl Screen<'_> {
    /// Its subscription.
    pub(super) fn subscription(&self) -> &Subscription {
        &self.known.subscription
    }

    /// True if it is time to tell it of the present; if it is, the next time is set.
    pub(super) fn take_turn(&mut self, now: Instant) -> bool {
        let due = now >= self.known.due;
        if due {
            let period = (self.known.subscription.period() * 1e9) as i64;
            // In step where it can be, and from now on where it was long ago.
            let next = self.known.due.plus(period);
            self.known.due = if next > now { next } else { now.plus(period) };
        }
        due
    }

    /// Puts an update into its outbox.
    pub(super) fn put(&mut self, update: Update) {
        self.known.post.put(update);
    }
}

/// Everybody who is attached. Clones are of the same guests.
#[derive(Clone)]
pub(super) struct Guests {
    known: Arc<Mutex<BTreeMap<u32, Known>>>,
    next: Arc<AtomicU32>,
    messages: Sender<Message>,
    whole: Arc<ArcSwap<DocumentUpdate>>,
}

impl Guests {
    pub(super) fn new(messages: Sender<Message>, whole: Arc<ArcSwap<DocumentUpdate>>) -> Self {
        Self { known: Arc::default(), next: Arc::new(AtomicU32::new(1)), messages, whole }
    }

    fn known(&self) -> MutexGuard<'_, BTreeMap<u32, Known>> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Begins to listen for guests at the session's socket.
    pub(super) fn listen(&self, place: &SessionPlace) -> io::Result<()> {
        let guests = self.clone();
        server::listen(place, move |stream| guests.enter(stream))
    }

    /// Lets a guest in through a socket, with two threads of its own: one reads what it asks, one writes what it is told.
    pub(super) fn enter(&self, stream: UnixStream) {
        let guests = self.clone();
        let id = self.next.fetch_add(1, Ordering::Relaxed);
        let work = move || {
            if let Err(error) = guests.attend(id, stream) {
                tracing::info!(%error, id, "a guest is gone");
            }
            let _ = guests.messages.send(Message::Gone(id));
        };
        if let Err(error) = Builder::new().name("guest".into()).spawn(work) {
            tracing::warn!(%error, "there is no thread for a guest");
        }
    }

    /// Reads what a guest asks until it goes or says something that is not understood.
    fn attend(&self, id: u32, stream: UnixStream) -> Result<(), FrameError> {
        let mut reading = stream.try_clone()?;
        let mut writing = stream.try_clone()?;
        reading.set_read_timeout(Some(HELLO))?;
        let guest = match frame::read::<Request>(&mut reading, LONGEST_REQUEST)? {
            Request::Hello { version, guest } if version == VERSION => guest,
            Request::Hello { version, .. } => {
                let words = format!(
                    "this session speaks version {VERSION} of the link, and the screen version {version}: use the Splimo that started it"
                );
                return frame::write(&mut writing, &Update::Ended(words));
            }
            Request::Command { .. } | Request::Subscribe(_) | Request::Remember(_) | Request::Failed(_) => {
                return Err(FrameError::Strange("the first request has to be hello".to_owned()));
            }
        };
        reading.set_read_timeout(None)?;
        let post = Arc::new(Post::default());
        let (asks, waiting) = bounded(WAITING);
        {
            let mut known = self.known();
            if known.len() >= MOST_GUESTS {
                return frame::write(
                    &mut writing,
                    &Update::Ended(format!("{MOST_GUESTS} guests are attached already")),
                );
            }
            known.insert(id, Known::new(guest, post.clone(), Some(stream), waiting));
        }
        let (theirs, whole) = (post.clone(), self.whole.clone());
        Builder::new().name("guest".into()).spawn(move || write_updates(id, &theirs, &whole, &mut writing))?;
        let _ = self.messages.send(Message::Came(id, guest));
        loop {
            match frame::read::<Request>(&mut reading, LONGEST_REQUEST) {
                Ok(request) => {
                    if asks.send(()).is_err() || self.messages.send(Message::Asked(id, request)).is_err() {
                        return Ok(());
                    }
                }
                Err(FrameError::Broken(_)) => return Ok(()),
                Err(error) => {
                    post.put(Update::Ended(format!("something was said that is not understood: {error}")));
                    post.close();
                    return Err(error);
                }
            }
        }
    }

    /// A guest within this process.
    pub(super) fn attach(&self, guest: Guest) -> Link {
        let (send, updates) = bounded(ON_THE_WAY);
        let id = self.next.fetch_add(1, Ordering::Relaxed);
        let post = Arc::new(Post::default());
        let (asks, waiting) = bounded(WAITING);
        self.known().insert(id, Known::new(guest, post.clone(), None, waiting));
        let (theirs, whole) = (post.clone(), self.whole.clone());
        let work = move || {
            while let Some(next) = theirs.next() {
                if send.send(update_of(next, &whole)).is_err() {
                    return;
                }
            }
        };
        // Without a thread the guest hears nothing, and the link tells so by being closed.
        let _ = Builder::new().name("guest".into()).spawn(work);
        let _ = self.messages.send(Message::Came(id, guest));
        Link { id, asks, messages: self.messages.clone(), updates, post }
    }

    pub(super) fn origin(&self, id: u32) -> Origin {
        match self.known().get(&id).map(|known| known.guest) {
            Some(Guest::Sender) => Origin::CommandLine,
            Some(Guest::Screen | Guest::Visitor) | None => Origin::Screen(id),
        }
    }

    /// The number of screens that are attached.
    pub(super) fn screens(&self) -> u32 {
        self.known().values().filter(|known| known.is_screen()).count() as u32
    }

    /// Takes note that a request has been answered, so that the next one may come.
    pub(super) fn answered(&self, id: u32) {
        if let Some(one) = self.known().get(&id) {
            let _ = one.waiting.try_recv();
        }
    }

    /// The number of guests.
    #[cfg(test)]
    pub(super) fn count(&self) -> usize {
        self.known().len()
    }

    pub(super) fn welcome(&self, id: u32, guest: Guest, session: SessionInfo, remembered: Vec<u8>) {
        let mut known = self.known();
        let Some(one) = known.get_mut(&id) else { return };
        one.welcomed = true;
        one.post.put(Update::Welcome { version: VERSION, session, guest: id, remembered });
        if guest == Guest::Screen {
            one.post.want_whole();
        }
    }

    /// Puts an update into the outbox of a guest. One that lets too much come together is sent away.
    pub(super) fn put(&self, id: u32, update: Update) {
        let known = self.known();
        if let Some(one) = known.get(&id)
            && !one.post.put(update)
        {
            one.post.close();
            one.hang_up();
        }
    }

    /// Tells all screens.
    pub(super) fn put_all(&self, update: &Update) {
        for one in self.known().values().filter(|known| known.is_screen()) {
            one.post.put(update.clone());
        }
    }

    /// Tells the screens that show pictures.
    pub(super) fn put_media(&self, update: &Update) {
        for one in self.known().values().filter(|known| known.subscription.media) {
            one.post.put(update.clone());
        }
    }

    pub(super) fn want_media(&self) -> bool {
        self.known().values().any(|known| known.subscription.media)
    }

    /// A universe of others whose slots a screen shows.
    pub(super) fn received(&self) -> Option<(Protocol, u16)> {
        self.known().values().find_map(|known| known.subscription.received)
    }

    pub(super) fn subscribe(&self, id: u32, subscription: Subscription) {
        if let Some(one) = self.known().get_mut(&id) {
            // Another view is to be seen at once.
            (one.subscription, one.due) = (subscription.bounded(), Instant::now());
        }
    }

    /// True if it is time to tell any screen of the present.
    pub(super) fn is_any_due(&self, now: Instant) -> bool {
        self.known().values().any(|known| known.is_screen() && now >= known.due)
    }

    pub(super) fn each_screen(&self, mut tell: impl FnMut(&mut Screen<'_>)) {
        for known in self.known().values_mut().filter(|known| known.is_screen()) {
            tell(&mut Screen { known });
        }
    }

    /// Forgets a guest; whether it was there.
    pub(super) fn remove(&self, id: u32) -> bool {
        let removed = self.known().remove(&id);
        if let Some(one) = &removed {
            one.post.close();
            one.hang_up();
        }
        removed.is_some()
    }

    /// Tells every guest that the session ends, and waits a moment until they have been told.
    pub(super) fn send_away(&self, why: &str) {
        let posts: Vec<Arc<Post>> = self.known().values().map(|known| known.post.clone()).collect();
        for post in &posts {
            post.put(Update::Ended(why.to_owned()));
            post.close();
        }
        let until = Instant::now().plus(FAREWELL.as_nanos() as i64);
        while Instant::now() < until && posts.iter().any(|post| !post.is_done()) {
            std::thread::sleep(Duration::from_millis(2));
        }
        self.known().values().for_each(Known::hang_up);
    }
}

impl Known {
    fn new(guest: Guest, post: Arc<Post>, stream: Option<UnixStream>, waiting: Receiver<()>) -> Self {
        let (subscription, due) = (Subscription::default(), Instant::now());
        Self { guest, welcomed: false, post, subscription, due, stream, waiting }
    }

    /// True if it is a screen that is told what there is to show.
    fn is_screen(&self) -> bool {
        self.welcomed && self.guest == Guest::Screen
    }

    fn hang_up(&self) {
        if let Some(stream) = &self.stream {
            // One that is gone already needs no hanging up.
            let _ = stream.shutdown(Shutdown::Both);
        }
    }
}

/// The update that tells something.
fn update_of(next: Next, whole: &ArcSwap<DocumentUpdate>) -> Update {
    match next {
        Next::Update(update) => *update,
        Next::WholeDocument => Update::Document(Box::new(DocumentUpdate::clone(&whole.load()))),
    }
}

/// Writes what a guest is told until it is gone or its outbox is closed.
fn write_updates(id: u32, post: &Post, whole: &ArcSwap<DocumentUpdate>, stream: &mut UnixStream) {
    while let Some(next) = post.next() {
        if let Err(error) = frame::write(stream, &update_of(next, whole)) {
            tracing::info!(%error, id, "a guest cannot be told anything any more");
            let _ = stream.shutdown(Shutdown::Both);
            return;
        }
    }
}

/// A link to a session within this process. Dropping it is leaving.
pub struct Link {
    id: u32,
    asks: Sender<()>,
    messages: Sender<Message>,
    updates: Receiver<Update>,
    post: Arc<Post>,
}

impl Link {
    /// Asks the session for something. A link whose session has ended asks nobody.
    pub fn send(&self, request: Request) {
        if self.asks.send(()).is_ok() {
            let _ = self.messages.send(Message::Asked(self.id, request));
        }
    }

    /// The updates of the session.
    #[must_use]
    pub fn updates(&self) -> &Receiver<Update> {
        &self.updates
    }
}

impl Drop for Link {
    fn drop(&mut self) {
        self.post.close();
        let _ = self.messages.send(Message::Gone(self.id));
    }
}
