-- What stands before decimals where the firm's people read and type numbers. What is kept is written with a point.

ALTER TABLE firm ADD decimal_sign text NOT NULL DEFAULT '.' CHECK (decimal_sign IN ('.', ','));
GRANT UPDATE (decimal_sign) ON firm TO earmark_app;
