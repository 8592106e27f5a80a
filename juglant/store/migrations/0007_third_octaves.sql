-- Third octaves of a record by their name: thirds are intervals.
UPDATE reference SET numbers = replace(numbers, '"thirds_db":', '"third_octaves_db":');
