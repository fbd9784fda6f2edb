//! CSV for people who open it in a spreadsheet, which takes some texts for formulas.

/// The same table, where no cell is taken for a formula: what begins as one gets an apostrophe before it, which spreadsheets take as
/// “this is text”. Numbers stay numbers. A file for importing again must not be guarded, as the apostrophes would come along.
#[must_use]
pub fn guarded(csv: &str) -> String {
    let mut reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(csv.as_bytes());
    let mut writer = csv::WriterBuilder::new().flexible(true).from_writer(Vec::with_capacity(csv.len()));
    for row in reader.records().flatten() {
        // Writing into memory cannot fail.
        let _ = writer.write_record(row.iter().map(cell));
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

fn cell(text: &str) -> String {
    let formula = text.starts_with(['=', '+', '-', '@', '\t', '\r', '\n']) && text.parse::<f64>().is_err();
    if formula { format!("'{text}") } else { text.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn formulas_become_texts_and_the_rest_stays() {
        let plain = "name,hours,note\nOona,-1.5,\"with, comma\"\n\"a \"\"b\"\"\",8,-\n";
        assert_eq!(guarded(plain), plain.replace(",-\n", ",'-\n"));
        let tried = "name,note\n\"=HYPERLINK(\"\"https://x.test\"\")\",@SUM(1)\n+1+1,\"-2+3\ncmd|' /c calc'!A0\"\n\"\t=1\",+7\n";
        let safe = "name,note\n\"'=HYPERLINK(\"\"https://x.test\"\")\",'@SUM(1)\n'+1+1,\"'-2+3\ncmd|' /c calc'!A0\"\n'\t=1,+7\n";
        assert_eq!(guarded(tried), safe);
    }
}
