"""Reading files of records, counting and filtering what they hold."""
