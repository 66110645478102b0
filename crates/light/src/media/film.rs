//! Films that run by themselves: another thread reads them, and effects look at the newest picture. Like the music, a film is
//! something that comes in: what it shows depends on when it is looked at.

use std::sync::Arc;

use arc_swap::ArcSwapOption;

use super::Picture;

/// A film, in which the newest picture is found.
#[derive(Debug, Default)]
pub struct Film {
    newest: ArcSwapOption<Picture>,
}

impl Film {
    /// The newest picture, if there was one yet. Neither waits nor allocates.
    #[must_use]
    pub fn newest(&self) -> Option<Arc<Picture>> {
        self.newest.load_full()
    }
}

/// Pictures that are kept after they were seen, so that whoever looks at one is never the last to let go of it: freeing
/// memory is not for the thread that makes frames.
const KEPT: usize = 16;

/// The end of a film at which pictures are put in.
#[derive(Debug)]
pub struct Screening {
    film: Arc<Film>,
    kept: [Option<Arc<Picture>>; KEPT],
    next: usize,
}

impl Screening {
    /// Begins to show a film.
    #[must_use]
    pub fn of(film: Arc<Film>) -> Self {
        Self { film, kept: Default::default(), next: 0 }
    }

    /// Shows a picture from now on.
    pub fn show(&mut self, picture: Picture) {
        let picture = Arc::new(picture);
        self.film.newest.store(Some(picture.clone()));
        self.kept[self.next] = Some(picture);
        self.next = (self.next + 1) % KEPT;
    }

    /// True if nobody wants the film any more.
    #[must_use]
    pub fn is_left(&self) -> bool {
        Arc::strong_count(&self.film) <= 1
    }
}
