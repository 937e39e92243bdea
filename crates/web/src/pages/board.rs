//! What the boards have in common: tiles of this very picture on shelves with a name.

/// A tile of a board.
pub struct TileView {
    pub id: String,
    pub name: String,
    /// What it is, under its name.
    pub note: String,
    /// A figure beside its name, such as a speed.
    pub figure: String,
    /// It is what is in force, or lies on the picture.
    pub chosen: bool,
    pub pinned: bool,
    /// Names the frame's picture with it, for its address.
    pub version: String,
    /// What the search finds, in lower case.
    pub words: String,
}

/// Tiles that belong together.
pub struct ShelfView {
    pub name: String,
    pub tiles: Vec<TileView>,
    /// Columns that it takes, of [`COLUMNS`].
    pub columns: usize,
}

/// Tiles in a row.
pub const COLUMNS: usize = 6;

/// Puts a tile at the end of the shelf with a name; a new shelf where there is none.
pub fn put(shelves: &mut Vec<ShelfView>, name: &str, tile: TileView) {
    match shelves.iter_mut().find(|shelf| shelf.name == name) {
        Some(shelf) => shelf.tiles.push(tile),
        None => shelves.push(ShelfView { name: name.into(), tiles: vec![tile], columns: 1 }),
    }
    if let Some(shelf) = shelves.iter_mut().find(|shelf| shelf.name == name) {
        shelf.columns = shelf.tiles.len().min(COLUMNS);
    }
}
