//! The load table as a workbook: one sheet, a row a line, a column a bucket, numbers as numbers.

use rust_decimal::prelude::ToPrimitive as _;
use rust_xlsxwriter::{Format, Workbook, XlsxError};
use snug_core::{
    load::{Measure, Query, Table},
    spread::round_half_up,
};

/// Writes the table. `names` has the name of each row, in their order; `title` says what is counted. Minutes become hours with two
/// digits, half up. Every bucket has three columns: load, limit, room or spill.
///
/// # Errors
/// Where the workbook cannot be made.
pub fn load_table(table: &Table, query: &Query, names: &[String], title: &str) -> Result<Vec<u8>, XlsxError> {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    let bold = Format::new().set_bold();
    sheet.set_name("Load")?;
    sheet.write_with_format(0, 0, title, &bold)?;
    sheet.write_with_format(1, 0, "Row", &bold)?;
    sheet.write_with_format(1, 1, "Key", &bold)?;
    for (at, bucket) in table.buckets.iter().enumerate() {
        let first = column(2 + at * 3);
        let from = bucket.from.to_string();
        for (offset, what) in ["load", "limit", "room or spill"].iter().enumerate() {
            sheet.write_with_format(1, first + column(offset), format!("{from} {what}"), &bold)?;
        }
    }
    for (at, row) in table.rows.iter().enumerate() {
        let line = u32::try_from(at + 2).unwrap_or(u32::MAX);
        sheet.write(line, 0, names.get(at).map_or("", String::as_str))?;
        sheet.write(line, 1, &row.key)?;
        for (bucket, cell) in row.cells.iter().enumerate() {
            let Some(cell) = cell else { continue };
            let first = column(2 + bucket * 3);
            sheet.write(line, first, figure(cell.load, query.measure))?;
            if let Some(limit) = cell.limit {
                sheet.write(line, first + 1, figure(limit, query.measure))?;
                let over = cell.spill.max(cell.peak);
                sheet.write(line, first + 2, figure(if over > 0 { -over } else { cell.room }, query.measure))?;
            }
        }
    }
    sheet.set_freeze_panes(2, 2)?;
    sheet.autofit();
    book.save_to_buffer()
}

fn column(at: usize) -> u16 {
    u16::try_from(at).unwrap_or(u16::MAX)
}

fn figure(value: i64, measure: Measure) -> f64 {
    let hundredths = match measure {
        Measure::Minutes => round_half_up(value * 100, 60),
        measure if measure.in_hundredths() => value,
        _ => value * 100,
    };
    rust_decimal::Decimal::new(hundredths, 2).to_f64().unwrap_or_default()
}
