"""What is told of a whole derivation: headlines, the shop's list, where each joint lies, reminders, the working of a
figure, what-if.
"""
