//! The columns of the outline beside the Gantt: which there are, and which are shown.

/// A column: its word in the address, its heading, its class, which says how wide it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Col {
    pub word: &'static str,
    pub title: &'static str,
    pub class: &'static str,
}

const fn col(word: &'static str, title: &'static str, class: &'static str) -> Col {
    Col { word, title, class }
}

/// All that can be shown, in the order in which they are.
pub const COLS: [Col; 12] = [
    col("who", "Who", "wordy role"),
    col("accountable", "Accountable", "wordy"),
    col("waiting", "Waiting on", "wordy"),
    col("stage", "Stage", "worded"),
    col("priority", "Priority", "worded"),
    col("start", "Start", "worded"),
    col("finish", "Finish", "worded"),
    col("due", "Due", "worded"),
    col("estimate", "Estimate", "left"),
    col("progress", "Done", "left"),
    col("float", "Float", "left"),
    col("left", "Left", "left"),
];

/// What is shown when nobody has chosen.
pub const USUAL: &str = "who,left";

/// The columns that an address names; the usual ones where it names none.
pub fn chosen(words: &str) -> Vec<Col> {
    let words = if words.is_empty() { USUAL } else { words };
    COLS.into_iter().filter(|col| words.split(',').any(|word| word == col.word)).collect()
}

/// What stands in a column.
pub struct Value {
    pub class: &'static str,
    pub text: String,
}
