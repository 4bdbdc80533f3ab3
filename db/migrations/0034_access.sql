-- What a program may do here may end by itself: after this day, where the firm is.
ALTER TABLE api_token ADD ends_on date;
SELECT record_again('api_token');
