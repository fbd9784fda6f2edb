//! The plan as CSV files. What is written reads back as the same plan.

use snug_core::{
    Eyes, Plan,
    change::Change,
    kinds::{File, file, files, part_rows},
    text::Text,
};
use std::path::Path;

/// Every file of the workspace by name, in a fixed order, rows sorted by key, with what these eyes see. `texts` are those on its records, which the plan does
/// not hold.
#[must_use]
pub fn files_of(eyes: &Eyes<'_>, texts: &[Text]) -> Vec<(&'static str, String)> {
    files().iter().map(|file| (file.name, file_text(eyes, texts, file.name))).collect()
}

/// Writes every file of the workspace into a folder, which is made when missing.
///
/// # Errors
/// The folder or a file cannot be written.
pub fn write_folder(plan: &Plan, texts: &[Text], folder: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(folder)?;
    files_of(&Eyes::of_all(plan), texts)
        .into_iter()
        .try_for_each(|(name, text)| std::fs::write(folder.join(name), text))
}

/// One record as the row of its file: column and value, as forms and programs show it to these eyes. `None` for kinds that have no
/// file.
#[must_use]
pub fn row_of(eyes: &Eyes<'_>, record: &Change) -> Option<Vec<(String, String)>> {
    let file = file(record.subject().0.about().file)?;
    let record = record.record()?;
    let cell = |column: String| {
        let value = record.cell(eyes, &column);
        (column, value)
    };
    Some(columns(eyes.plan, file).into_iter().map(cell).collect())
}

/// The columns of a file in this workspace: those of every workspace, then its own fields.
#[must_use]
pub fn header(plan: &Plan, name: &str) -> Vec<String> {
    file(name).map(|file| columns(plan, file)).unwrap_or_default()
}

fn columns(plan: &Plan, file: &File) -> Vec<String> {
    let own = file.kind.about().own_fields.filter(|_| file.has_own()).map(|of| plan.fields_of(of)).unwrap_or_default();
    let known = file.columns.iter().map(|spec| spec.name.to_owned());
    known.chain(own.iter().map(|field| field.column())).collect()
}

/// One file of the workspace, with what these eyes see.
#[must_use]
pub fn file_text(eyes: &Eyes<'_>, texts: &[Text], name: &str) -> String {
    let Some(file) = file(name) else { return String::new() };
    let header = columns(eyes.plan, file);
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing into memory cannot fail, and every row has the header's length.
    let _ = writer.write_record(&header);
    if let Some(part) = file.part {
        let rows = if eyes.sees_part(&part) { part_rows(eyes.plan, file) } else { Vec::new() };
        for row in rows {
            let _ = writer.write_record(&row);
        }
    } else {
        for record in eyes.seen(file.kind, file.kind.in_order(eyes.plan, texts)) {
            let _ = writer.write_record(header.iter().map(|column| record.cell(eyes, column)));
        }
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}
