//! A cache bounded in bytes that forgets what was used longest ago, and that lets one thread make what several ask for.

use std::collections::{HashMap, HashSet};
use std::convert::Infallible;
use std::hash::Hash;
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};

struct Entry<V> {
    value: Arc<V>,
    bytes: usize,
    used: u64,
}

struct Store<K, V> {
    entries: HashMap<K, Entry<V>>,
    /// What is being made.
    making: HashSet<K>,
    bytes: usize,
    clock: u64,
}

impl<K, V> Default for Store<K, V> {
    fn default() -> Self {
        Self { entries: HashMap::new(), making: HashSet::new(), bytes: 0, clock: 0 }
    }
}

/// Shared between the render threads.
pub struct Cache<K, V> {
    budget: usize,
    /// One value that is larger than the budget may be kept, and a quarter of the budget beside it.
    one_larger: bool,
    store: Mutex<Store<K, V>>,
    /// Told when something was made, or could not be.
    made: Condvar,
}

/// Takes a key off what is being made, whatever became of it.
struct Making<'a, K: Eq + Hash + Copy, V> {
    cache: &'a Cache<K, V>,
    key: K,
}

impl<K: Eq + Hash + Copy, V> Drop for Making<'_, K, V> {
    fn drop(&mut self) {
        self.cache.lock().making.remove(&self.key);
        self.cache.made.notify_all();
    }
}

impl<K: Eq + Hash + Copy, V> Cache<K, V> {
    /// A cache that holds at most `budget` bytes.
    pub fn new(budget: usize) -> Self {
        Self { budget, one_larger: false, store: Mutex::default(), made: Condvar::new() }
    }

    /// A cache that keeps the newest value even where it is larger than the budget: what takes long to make and is
    /// wanted again at once.
    pub fn with_one_larger(budget: usize) -> Self {
        Self { one_larger: true, ..Self::new(budget) }
    }

    /// Forgets everything.
    pub fn clear(&self) {
        let mut store = self.lock();
        store.entries.clear();
        store.bytes = 0;
    }

    /// A poisoned lock only means that another render panicked; the map itself is whole.
    fn lock(&self) -> MutexGuard<'_, Store<K, V>> {
        self.store.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The value for a key, where it is there; it counts as used.
    pub fn get(&self, key: &K) -> Option<Arc<V>> {
        let mut store = self.lock();
        store.clock += 1;
        let now = store.clock;
        let entry = store.entries.get_mut(key)?;
        entry.used = now;
        Some(entry.value.clone())
    }

    /// Keeps a value of so many bytes; what was used longest ago makes room.
    pub fn put(&self, key: K, value: Arc<V>, bytes: usize) {
        if bytes > self.budget && !self.one_larger {
            return;
        }
        let mut store = self.lock();
        store.clock += 1;
        let used = store.clock;
        if let Some(old) = store.entries.insert(key, Entry { value, bytes, used }) {
            store.bytes -= old.bytes;
        }
        store.bytes += bytes;
        let largest = store.entries.values().map(|e| e.bytes).max().unwrap_or(0);
        let allowed = if largest > self.budget { bytes.max(largest) + self.budget / 4 } else { self.budget };
        while store.bytes > allowed {
            let Some(oldest) = store.entries.iter().min_by_key(|(_, e)| e.used).map(|(k, _)| *k) else { break };
            if let Some(gone) = store.entries.remove(&oldest) {
                store.bytes -= gone.bytes;
            }
        }
    }

    /// The value for a key, made when it is not there; where another thread makes it already, its value is awaited.
    ///
    /// A thread of a render pool never waits: what it waited for might wait for it. It makes the value for itself.
    pub fn get_or_make<E>(&self, key: K, make: impl FnOnce() -> Result<(V, usize), E>) -> Result<Arc<V>, E> {
        let may_wait = rayon::current_thread_index().is_none();
        let claimed = loop {
            if let Some(found) = self.get(&key) {
                return Ok(found);
            }
            let mut store = self.lock();
            let claimed = store.making.insert(key);
            if claimed || !may_wait {
                break claimed;
            }
            while store.making.contains(&key) {
                store = self.made.wait(store).unwrap_or_else(PoisonError::into_inner);
            }
        };
        let _making = claimed.then(|| Making { cache: self, key });
        // it may have been made between the look and the claim
        if let Some(found) = self.get(&key) {
            return Ok(found);
        }
        let (value, bytes) = make()?;
        let value = Arc::new(value);
        self.put(key, value.clone(), bytes);
        Ok(value)
    }

    /// [`Cache::get_or_make`] of what can always be made.
    pub fn get_or_always_make(&self, key: K, make: impl FnOnce() -> (V, usize)) -> Arc<V> {
        let Ok(made) = self.get_or_make(key, || Ok::<_, Infallible>(make()));
        made
    }

    /// Bytes that are kept.
    pub fn bytes(&self) -> usize {
        self.lock().bytes
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn stays_within_its_budget_and_forgets_the_oldest() {
        let cache: Cache<u32, u32> = Cache::new(100);
        for k in 0..5 {
            cache.put(k, Arc::new(k), 30);
            cache.get(&0);
        }
        assert!(cache.bytes() <= 100);
        assert!(cache.get(&0).is_some() && cache.get(&1).is_none() && cache.get(&4).is_some());
        cache.put(9, Arc::new(9), 101);
        assert!(cache.get(&9).is_none());
    }

    /// Eight threads that ask at once are given one value, made once; one that cannot be made is tried by the next.
    #[test]
    fn what_several_ask_for_is_made_once() {
        use std::sync::atomic::{AtomicUsize, Ordering};
        let cache: Cache<u32, usize> = Cache::new(1000);
        let made = AtomicUsize::new(0);
        let ask = || {
            cache.get_or_make(7, || {
                let count = made.fetch_add(1, Ordering::SeqCst);
                std::thread::sleep(std::time::Duration::from_millis(30));
                if count == 0 { Err("the first fails") } else { Ok((count, 10)) }
            })
        };
        let found: Vec<_> = std::thread::scope(|scope| {
            let threads: Vec<_> = (0..8).map(|_| scope.spawn(ask)).collect();
            threads.into_iter().map(|t| t.join().unwrap()).collect()
        });
        assert_eq!(made.load(Ordering::SeqCst), 2);
        assert_eq!(found.iter().filter(|f| f.is_err()).count(), 1);
        assert!(found.iter().flatten().all(|v| **v == 1));
    }

    #[test]
    fn one_larger_stays_with_what_is_made_of_it() {
        let cache: Cache<u32, u32> = Cache::with_one_larger(100);
        (0..5).for_each(|k| cache.put(k, Arc::new(k), 30));
        cache.put(9, Arc::new(9), 700);
        cache.put(10, Arc::new(10), 20);
        assert!(cache.get(&9).is_some() && cache.get(&10).is_some() && cache.bytes() <= 725, "{}", cache.bytes());
        cache.put(11, Arc::new(11), 710);
        assert!(cache.get(&11).is_some() && cache.get(&9).is_none());
        cache.clear();
        assert_eq!((cache.bytes(), cache.get(&11)), (0, None));
    }
}
