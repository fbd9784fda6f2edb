//! Reports as files: CSV, a workbook with real numbers and dates and sums as formulas, and columns to read in a letter.

use chrono::Datelike as _;
use rust_decimal::{Decimal, prelude::ToPrimitive as _};
use rust_xlsxwriter::{ExcelDateTime, Format, Formula, Workbook, Worksheet, XlsxError};
use snug_core::{
    cell::hours_text,
    reports::{Column, Report, Shape, Value},
};

fn text(value: &Value<'_>) -> String {
    match value {
        Value::Nothing => String::new(),
        Value::Text(text) => text.to_string(),
        Value::Day(day) => day.to_string(),
        Value::Minutes(minutes) => hours_text(*minutes),
        Value::Money(sum) => sum.to_string(),
        Value::Count(count) => count.to_string(),
        Value::PerMille(per_mille) => crate::hours::percent(*per_mille),
    }
}

/// The rows of a report, with a header of the columns' names; hours are decimals. The sums are not in it: whoever reads it adds up.
#[must_use]
pub fn csv(report: &Report<'_>) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing into memory cannot fail, and every row has the header's length.
    let _ = writer.write_record(report.columns.iter().map(|column| column.name));
    for row in &report.rows {
        let _ = writer.write_record(row.iter().map(text));
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// The first rows of a report and its sums, each column as wide as its widest cell, for a letter.
#[must_use]
pub fn letter(report: &Report<'_>, most: usize) -> String {
    let header: Vec<String> = report.columns.iter().map(|column| column.label.to_owned()).collect();
    let line = |row: &Vec<Value<'_>>, name: &str| {
        let mut cells: Vec<String> = row.iter().map(text).collect();
        if let Some(first) = cells.first_mut().filter(|first| first.is_empty()) {
            name.clone_into(first);
        }
        cells
    };
    let rows = report.rows.iter().take(most).map(|row| line(row, "–"));
    let lines: Vec<Vec<String>> =
        std::iter::once(header).chain(rows).chain(std::iter::once(line(&report.totals, "Sum"))).collect();
    let width = |at: usize| lines.iter().filter_map(|line| line.get(at)).map(|cell| cell.chars().count()).max();
    let widths: Vec<usize> = (0..report.columns.len()).map(|at| width(at).unwrap_or(0)).collect();
    let cell = |(at, cell): (usize, &String)| {
        let width = widths[at];
        if report.columns[at].shape == Shape::Text { format!("{cell:width$}") } else { format!("{cell:>width$}") }
    };
    let aligned =
        |line: &Vec<String>| line.iter().enumerate().map(cell).collect::<Vec<_>>().join("  ").trim_end().to_owned();
    lines.iter().map(|it| aligned(it) + "\n").collect()
}

/// The formats of a workbook's cells.
struct Formats {
    bold: Format,
    day: Format,
}

/// How the numbers of a column are written in a workbook.
fn number_format(shape: Shape) -> &'static str {
    match shape {
        Shape::Hours => "0.00",
        Shape::Money => "#,##0.00",
        Shape::Percent => "0.0%",
        Shape::Count | Shape::Text | Shape::Day => "0",
    }
}

/// A value as the number that a workbook or a chart calculates with; hours are hours, and percent hundredths.
#[must_use]
pub fn number(value: &Value<'_>) -> Option<f64> {
    match value {
        Value::Minutes(minutes) => (Decimal::from(*minutes) / Decimal::from(60)).to_f64(),
        Value::Money(sum) => sum.to_f64(),
        Value::Count(count) => Decimal::from(*count).to_f64(),
        Value::PerMille(per_mille) => Decimal::new(*per_mille, 3).to_f64(),
        Value::Nothing | Value::Text(_) | Value::Day(_) => None,
    }
}

/// The most rows of a sheet below its head and above its sums.
pub const MOST_ROWS: usize = 1_000_000;

fn write(sheet: &mut Worksheet, (row, at): (u32, u16), value: &Value<'_>, format: &Format) -> Result<(), XlsxError> {
    match value {
        Value::Nothing => {}
        // A text stays one, whatever it begins with.
        Value::Text(text) => drop(sheet.write_string(row, at, text.as_ref())?),
        Value::Day(day) => {
            let date = day.date();
            let year = u16::try_from(date.year()).unwrap_or(0);
            let [month, day] = [date.month(), date.day()].map(|part| u8::try_from(part).unwrap_or(0));
            let date = ExcelDateTime::from_ymd(year, month, day)?;
            sheet.write_datetime_with_format(row, at, &date, format)?;
        }
        value => drop(sheet.write_number_with_format(row, at, number(value).unwrap_or_default(), format)?),
    }
    Ok(())
}

/// A report as a workbook: a title, what was asked for, the rows with numbers as numbers and days as days, and the sums below them as
/// formulas, which know their results.
///
/// # Errors
/// Where the workbook cannot be made: there are more rows than a sheet has.
pub fn workbook(report: &Report<'_>, title: &str, says: &str) -> Result<Vec<u8>, XlsxError> {
    /// Below the title, what was asked for, an empty row and the head.
    const FIRST: u32 = 4;
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    let formats = Formats { bold: Format::new().set_bold(), day: Format::new().set_num_format("yyyy-mm-dd") };
    sheet.set_name("Report")?;
    sheet.write_with_format(0, 0, title, &formats.bold)?;
    sheet.write(1, 0, says)?;
    let column_at = |at: usize| u16::try_from(at).unwrap_or(u16::MAX);
    let column_name = |at: usize| rust_xlsxwriter::utility::column_number_to_name(column_at(at));
    let format = |column: &Column| match column.shape {
        Shape::Day => formats.day.clone(),
        shape => Format::new().set_num_format(number_format(shape)),
    };
    let of_columns: Vec<Format> = report.columns.iter().map(format).collect();
    for (at, column) in report.columns.iter().enumerate() {
        sheet.write_with_format(FIRST - 1, column_at(at), column.label, &formats.bold)?;
    }
    let count = u32::try_from(report.rows.len().min(MOST_ROWS)).unwrap_or(0);
    for (line, row) in (FIRST..).zip(report.rows.iter().take(MOST_ROWS)) {
        for (at, value) in row.iter().enumerate() {
            write(sheet, (line, column_at(at)), value, &of_columns[at])?;
        }
    }
    let sums = report.columns.iter().enumerate().filter(|(_, column)| column.adds_up);
    for (at, column) in sums.filter(|_| count > 0) {
        let name = column_name(at);
        let sum = number(&report.totals[at]).unwrap_or_default();
        let cells = |name: &str| format!("{name}{}:{name}{}", FIRST + 1, FIRST + count);
        // What is inside another row is in the figures of that one already.
        let formula = match report.inside {
            Some(inside) => format!("=SUMIF({},\"=\",{})", cells(&column_name(inside)), cells(&name)),
            None => format!("=SUM({})", cells(&name)),
        };
        let formula = Formula::new(formula).set_result(sum.to_string());
        let format = Format::new().set_bold().set_num_format(number_format(column.shape));
        sheet.write_formula_with_format(FIRST + count, column_at(at), formula, &format)?;
    }
    if count > 0 && report.keys > 0 {
        sheet.write_with_format(FIRST + count, 0, "Sum", &formats.bold)?;
    }
    sheet.set_freeze_panes(FIRST, 0)?;
    sheet.autofit();
    book.save_to_buffer()
}
