//! What a page depends on, noted while it is rendered: whoever reads something that may differ from one state of a site to
//! the next says so here, and whoever renders a page collects it.
//!
//! Notes belong to the thread that renders. What is kept for all pages, and evaluated once, is evaluated [`apart`]: what
//! each page depends on is then noted where it is read.

use std::cell::{Cell, RefCell};

use rustc_hash::{FxHashMap, FxHashSet};

/// The most that is noted of one page. One that depends on more is never known to be as it was.
const MOST: usize = 4096;

/// A text among [`Dependencies::texts`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct TextId(pub u32);

/// Something that a page depends on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Dependency {
    /// A file that ran, by its number in the library.
    File(u32),
    /// The result of a query that is the same for every request: the path of its program, and its number there.
    Rows(TextId, u32),
    /// The order of the list of a query, likewise.
    Order(TextId, u32),
    /// What the index of a query holds for the value with this digest, likewise.
    Indexed(TextId, u32, u64),
    /// What the site means by a sort and two numbers.
    Site(u8, u32, u32),
    /// What the site means by a sort and a text.
    SiteText(u8, TextId),
}

/// All that was noted while something was evaluated, each once.
#[derive(Clone, Debug, Default)]
pub struct Dependencies {
    /// In the order in which it was noted first.
    pub all: Vec<Dependency>,
    /// The texts in it.
    pub texts: Vec<Box<str>>,
    /// Whether there was more than is noted.
    pub is_cut: bool,
}

impl Dependencies {
    /// A text in it.
    pub fn text(&self, id: TextId) -> &str {
        self.texts.get(id.0 as usize).map_or("", |text| text)
    }
}

#[derive(Default)]
struct Collector {
    found: Dependencies,
    seen: FxHashSet<Dependency>,
    text_ids: FxHashMap<Box<str>, TextId>,
}

impl Collector {
    fn add(&mut self, dependency: Dependency) {
        if self.found.all.last() == Some(&dependency) || self.found.is_cut || !self.seen.insert(dependency) {
            return;
        }
        self.found.is_cut = self.found.all.len() == MOST;
        self.found.all.push(dependency);
    }

    fn text(&mut self, text: &str) -> TextId {
        if let Some(&id) = self.text_ids.get(text) {
            return id;
        }
        let id = TextId(u32::try_from(self.found.texts.len()).unwrap_or(u32::MAX));
        self.found.texts.push(text.into());
        self.text_ids.insert(text.into(), id);
        id
    }
}

thread_local! {
    static IS_COLLECTING: Cell<bool> = const { Cell::new(false) };
    static IS_ORDER_KNOWN: Cell<bool> = const { Cell::new(false) };
    static COLLECTOR: RefCell<Collector> = RefCell::default();
}

/// Sets a switch of this thread while `work` runs.
fn with<T>(switch: &'static std::thread::LocalKey<Cell<bool>>, on: bool, work: impl FnOnce() -> T) -> T {
    struct Back(&'static std::thread::LocalKey<Cell<bool>>, bool);
    impl Drop for Back {
        fn drop(&mut self) {
            self.0.set(self.1);
        }
    }
    let _back = Back(switch, switch.replace(on));
    work()
}

/// Evaluates something and tells what it depended on.
pub fn collect<T>(work: impl FnOnce() -> T) -> (T, Dependencies) {
    let outer = COLLECTOR.take();
    let result = with(&IS_ORDER_KNOWN, false, || with(&IS_COLLECTING, true, work));
    let inner = COLLECTOR.replace(outer);
    (result, inner.found)
}

/// Says that nobody can know what the present page depends on: it is made again each time.
pub fn note_unknown() {
    if is_collecting() {
        COLLECTOR.with_borrow_mut(|collector| collector.found.is_cut = true);
    }
}

/// Evaluates something without noting what it depends on: for what is kept and read by many pages.
pub fn apart<T>(work: impl FnOnce() -> T) -> T {
    with(&IS_COLLECTING, false, work)
}

/// Takes members out of a list whose order was noted already, in another way.
pub(crate) fn in_known_order<T>(work: impl FnOnce() -> T) -> T {
    with(&IS_ORDER_KNOWN, true, work)
}

/// Whether anybody collects on this thread.
#[inline]
pub fn is_collecting() -> bool {
    IS_COLLECTING.get()
}

/// Notes that the present page depends on this.
#[inline]
pub fn note(dependency: Dependency) {
    if is_collecting() {
        add(dependency);
    }
}

/// The same for the members and the order of a list.
#[inline]
pub fn note_list(dependency: Dependency) {
    if is_collecting() && !IS_ORDER_KNOWN.get() {
        add(dependency);
    }
}

/// Notes that the present page depends on what the site means by a sort and a text.
#[inline]
pub fn note_text(sort: u8, text: &str) {
    if is_collecting() {
        note_about(text, |text| Dependency::SiteText(sort, text));
    }
}

/// Notes something about a program, by its path.
#[inline]
pub(crate) fn note_program(path: &str, dependency: impl FnOnce(TextId) -> Dependency) {
    if is_collecting() {
        note_about(path, dependency);
    }
}

fn add(dependency: Dependency) {
    COLLECTOR.with_borrow_mut(|collector| collector.add(dependency));
}

fn note_about(text: &str, dependency: impl FnOnce(TextId) -> Dependency) {
    COLLECTOR.with_borrow_mut(|collector| {
        let id = collector.text(text);
        collector.add(dependency(id));
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    const ONE: Dependency = Dependency::File(1);
    const TWO: Dependency = Dependency::File(2);

    #[test]
    fn what_is_noted_is_collected_once() {
        note(ONE);
        let ((), found) = collect(|| {
            note(TWO);
            note_text(3, "page:visit");
            note(TWO);
            apart(|| note(ONE));
            in_known_order(|| note_list(ONE));
            note_text(3, "page:visit");
        });
        assert_eq!(found.all, [TWO, Dependency::SiteText(3, TextId(0))]);
        assert_eq!(found.text(TextId(0)), "page:visit");
        assert!(!found.is_cut && !is_collecting());
    }

    #[test]
    fn a_page_inside_of_a_page_keeps_its_own() {
        let (inner, outer) = collect(|| {
            note(ONE);
            let ((), inner) = in_known_order(|| collect(|| note_list(TWO)));
            note_list(TWO);
            inner
        });
        assert_eq!((inner.all, outer.all), (vec![TWO], vec![ONE, TWO]));
    }

    #[test]
    fn what_depends_on_too_much_says_so() {
        let ((), found) = collect(|| (0..10_000).for_each(|number| note(Dependency::File(number))));
        assert!(found.is_cut && found.all.len() <= MOST + 1);
    }

    #[test]
    fn a_panic_ends_it() {
        let ended = std::panic::catch_unwind(|| collect(|| in_known_order(|| panic!("as planned"))));
        assert!(ended.is_err() && !is_collecting() && !IS_ORDER_KNOWN.get());
    }
}
