-- Files that are not as they were pressed any more are told at every look at the press.
CREATE INDEX files_not_as_pressed ON pressed_files (found) WHERE found IN ('changed', 'gone');
CREATE INDEX files_looked_for ON pressed_files (found_at) WHERE state = 'named';
